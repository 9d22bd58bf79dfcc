/** While words are being written down, they are written first where a host looks. */
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { client, type Episode, type Job, RATE, underWay } from "../api/client";
import { jobsOf } from "../api/jobs";

const SETTLED_MS = 600;
const STEP = 10 * RATE;

const writes = (jobs: Job[]) => jobs.some((job) => job.kind === "transcribe" && underWay(job));

/** Tell where that is, once the Page has come to rest. ``start``: the first frame in view. */
export function useLooking({ id, revision, frames }: Episode, start: number) {
  const { data: writing } = useQuery({ ...jobsOf(id), select: writes });
  const at = Math.max(0, Math.min(frames - 1, Math.floor(start / STEP) * STEP));
  const standing = useRef(revision);
  standing.current = revision;
  useEffect(() => {
    if (!writing) return;
    const timer = setTimeout(() => {
      // Nobody waits for the answer, and nothing is lost without it.
      client
        .PUT("/api/episodes/{episode_id}/looked-at", {
          params: { path: { episode_id: id } },
          body: { revision: standing.current, at },
        })
        .catch(() => undefined);
    }, SETTLED_MS);
    return () => clearTimeout(timer);
  }, [writing, id, at]);
}

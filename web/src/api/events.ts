/** The stream of events: jobs and episodes as they change, put into the query cache. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { announce, complain } from "../theme/toaster";
import { noteInBatches } from "./batches";
import { changes } from "./changes";
import { type Episode, type Job, Problem, underWay } from "./client";
import { noteTold, withJob } from "./jobs";
import { noteProgress } from "./left";
import { keys } from "./queries";

/** How long the answer to a change is given to arrive before what the stream told is looked at. */
const OWN_ANSWER_MS = 150;

const FIRST_LOOK_MS = 1500;

/** All that work in the background changes, by the names of its queries. */
const TOLD_BY_WORK = [
  "jobs",
  "episode",
  "page",
  "snags",
  "levels",
  "rundown",
  "sounds",
  "unfinished",
  "hand_overs",
  "check",
  "standing",
  "batches",
  "catalogue",
];

export function useEvents() {
  const queries = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/events");
    source.addEventListener("job", (event) => {
      const job: Job = JSON.parse(event.data);
      const before = queries.getQueryData<Job[]>(keys.jobs(job.episode_id));
      const again = (shown: string) =>
        queries.invalidateQueries({ queryKey: [shown, job.episode_id] });
      noteTold(job);
      queries.setQueryData<Job[]>(keys.jobs(job.episode_id), (old) => old && withJob(old, job));
      noteProgress(job);
      noteInBatches(queries, job);
      if (underWay(job)) {
        if (before?.find((one) => one.id === job.id)?.doing !== job.doing) job.shows.forEach(again);
        return;
      }
      job.changes.forEach(again);
      again("check");
      again("standing");
      // A notice about another episode than the open one would look like one about this.
      const elsewhere = changes.episode !== 0 && changes.episode !== job.episode_id;
      if (typeof job.result?.notice === "string" && !elsewhere) announce(job.result.notice);
      // What became of a batch is told together.
      if (job.kind !== "batch" && job.state === "failed") {
        const known = { place: job.place, episode: job.episode_id };
        complain(new Problem(job.error ?? "That did not work.", 0, known));
      }
    });
    source.addEventListener("episode", (event) => {
      const { id, revision } = JSON.parse(event.data) as { id: number; revision: number };
      // A change made here comes back as its own answer; another tab's has to be fetched, also one
      // that goes back. Where only what stands beside the document changed, that is looked at too.
      const look = () => {
        if (queries.isMutating()) return void setTimeout(look, OWN_ANSWER_MS);
        const known = queries.getQueryData<Episode>(keys.episode(id));
        if (known?.revision !== revision || known.takes.some((t) => t.damaged)) {
          queries.invalidateQueries({ queryKey: keys.episode(id) });
        }
        queries.invalidateQueries({ queryKey: keys.shows });
      };
      setTimeout(look, OWN_ANSWER_MS);
    });
    let opening = true;
    source.addEventListener("open", () => {
      // What was fetched just before the stream began is looked at once more, when there is time;
      // after it was gone for a while, everything is: what work ended meanwhile was not told.
      const again = () => {
        for (const name of TOLD_BY_WORK) queries.invalidateQueries({ queryKey: [name] });
        queries.invalidateQueries({ queryKey: keys.shows, exact: true });
      };
      if (opening) setTimeout(again, FIRST_LOOK_MS);
      else queries.invalidateQueries();
      opening = false;
    });
    return () => source.close();
  }, [queries]);
}

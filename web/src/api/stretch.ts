/** A stretch of the Page as queries: what stands on it, and its skyline. */
import type { QueryClient } from "@tanstack/react-query";
import { client, Problem, type Schemas, take } from "./client";
import { contentOf } from "./content";

/** How long what went out of view is kept. */
const KEPT_MS = 10_000;

export const stretchOf = (episode: number, revision: number, start: number, frames: number) => ({
  queryKey: ["page", episode, revision, start, frames],
  queryFn: () =>
    take(
      client.GET("/api/episodes/{episode_id}/page", {
        params: { path: { episode_id: episode }, query: { revision, start, frames } },
      }),
    ),
});

/** Peaks and body of every track, a byte a column. */
export interface Skyline {
  columns: number;
  peaks: Uint8Array[];
  body: Uint8Array[];
}

async function fetchSkyline(address: string, columns: number): Promise<Skyline> {
  const answer = await fetch(address);
  if (!answer.ok) throw new Problem("The picture of the sound did not come.", answer.status);
  return skylineFrom(new Uint8Array(await answer.arrayBuffer()), columns);
}

/** Bytes as rows of `columns`, two for each track in order: every first, and every second. */
export function rowsOf<T extends Uint8Array | Int8Array>(bytes: T, columns: number): [T[], T[]] {
  const row = (i: number) => bytes.subarray(i * columns, (i + 1) * columns) as T;
  const tracks = Array.from({ length: bytes.length / columns / 2 }, (_, i) => i);
  return [tracks.map((i) => row(2 * i)), tracks.map((i) => row(2 * i + 1))];
}

function skylineFrom(bytes: Uint8Array, columns: number): Skyline {
  const [peaks, body] = rowsOf(bytes, columns);
  return { columns, peaks, body };
}

export const skylineOf = (
  episode: number,
  revision: number,
  start: number,
  frames: number,
  columns: number,
) => ({
  queryKey: ["skyline", episode, revision, start, frames, columns],
  queryFn: () =>
    fetchSkyline(
      `/api/episodes/${episode}/skyline?revision=${revision}&start=${start}&frames=${frames}&columns=${columns}${contentOf(revision)}`,
      columns,
    ),
});

/** Put a stretch that came with the answer to a change where it will be looked for. */
export function putStretch(queries: QueryClient, id: number, stretch: Schemas["StretchView"]) {
  const { page, columns, skyline } = stretch;
  const text = atob(skyline);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < bytes.length; i++) bytes[i] = text.charCodeAt(i);
  const place = [id, page.revision, page.start, page.frames] as const;
  queries.setQueryData(stretchOf(...place).queryKey, page);
  queries.setQueryData(skylineOf(...place, columns).queryKey, skylineFrom(bytes, columns));
}

/** A stretch of a revision never changes, and soon goes when it is out of view. */
export function keepStretches(queries: QueryClient) {
  // None is held against another: what is of another revision is another.
  const kept = { staleTime: Number.POSITIVE_INFINITY, gcTime: KEPT_MS, structuralSharing: false };
  for (const key of ["page", "skyline", "wave"]) queries.setQueryDefaults([key], kept);
}

/** Stretches of the Page from the server, up to a minute each, kept by revision. */
import { type QueryClient, type QueryKey, useQuery } from "@tanstack/react-query";
import { client, type PageData, Problem, RATE, take } from "../api/client";
import { contentOf } from "../api/content";
import { rowsOf, skylineOf, stretchOf } from "../api/stretch";

/** Where the revision stands in the key of a stretch. */
const REVISION = 2;

/** Until a revision of a stretch has come, the same stretch stands there as it was before. */
function asItWas<T>(options: { queryKey: QueryKey; queryFn: () => Promise<T> }) {
  const same = (key: QueryKey) =>
    options.queryKey.every((part, i) => i === REVISION || part === key[i]);
  return {
    ...options,
    placeholderData: (before: T | undefined, query?: { queryKey: QueryKey }) =>
      query && same(query.queryKey) ? before : undefined,
  };
}

export const useStretch = (episode: number, revision: number, start: number, frames: number) =>
  useQuery(asItWas(stretchOf(episode, revision, start, frames)));

/** Fetch a stretch that will soon be seen. */
export function fetchStretch(
  queries: QueryClient,
  episode: number,
  revision: number,
  start: number,
  frames: number,
  columns: number,
) {
  return Promise.all([
    queries.prefetchQuery(stretchOf(episode, revision, start, frames)),
    queries.prefetchQuery(skylineOf(episode, revision, start, frames, columns)),
  ]);
}

/** The wave of every track, lowest and highest sample a column. */
export interface Wave {
  columns: number;
  low: Int8Array[];
  high: Int8Array[];
}

/** The wave of a stretch, for exact work; only at the shortest lines. */
export function useWave(
  episode: number,
  revision: number,
  start: number,
  frames: number,
  columns: number,
  wanted: boolean,
) {
  const options = {
    queryKey: ["wave", episode, revision, start, frames, columns],
    queryFn: async (): Promise<Wave> => {
      const answer = await fetch(
        `/api/episodes/${episode}/waveform?revision=${revision}&start=${start}&frames=${frames}&columns=${columns}${contentOf(revision)}`,
      );
      if (!answer.ok) throw new Problem("The picture of the sound did not come.", answer.status);
      const [low, high] = rowsOf(new Int8Array(await answer.arrayBuffer()), columns);
      return { columns, low, high };
    },
  };
  return useQuery({ ...asItWas(options), enabled: wanted && columns > 0 });
}

export function useSkyline(
  episode: number,
  revision: number,
  start: number,
  frames: number,
  columns: number,
) {
  const options = skylineOf(episode, revision, start, frames, columns);
  return useQuery({ ...asItWas(options), enabled: columns > 0 && frames > 0 });
}

/**
 * The first word that begins after a place, or the last before it, if the browser knows: where a
 * stretch on the way there has not come yet another word may be nearer, and nothing is told.
 */
export function wordBeside(
  queries: QueryClient,
  episode: number,
  revision: number,
  at: number,
  back: boolean,
): PageData["words"][number] | undefined {
  const held = queries
    .getQueriesData<PageData>({ queryKey: ["page", episode, revision] })
    .flatMap(([, page]) => (page?.revision === revision ? [page] : []))
    .sort((a, b) => (back ? end(b) - end(a) : a.start - b.start));
  let reached = at;
  for (const page of held) {
    if (back ? end(page) < reached : page.start > reached) return undefined;
    const nearest = back
      ? page.words.findLast((w) => w.start < at)
      : page.words.find((w) => w.start > at);
    if (nearest) return nearest;
    reached = back ? Math.min(reached, page.start) : Math.max(reached, end(page));
  }
  return undefined;
}

const end = (page: PageData) => page.start + page.frames;

/** The words of a span, fetched if need be. */
export const fetchWords = (episode: number, revision: number, start: number, end: number) =>
  take(
    client.GET("/api/episodes/{episode_id}/page", {
      params: {
        path: { episode_id: episode },
        query: { revision, start, frames: Math.max(1, Math.min(end - start, 600 * RATE)) },
      },
    }),
  ).then((page) => page.words);

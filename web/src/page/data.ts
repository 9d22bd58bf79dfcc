/** Stretches of the Page from the server, about a minute each, kept by revision. */
import { keepPreviousData, type QueryClient, useQuery } from "@tanstack/react-query";
import { client, type PageData, Problem, RATE, take } from "../api/client";

const STRETCH_S = 60;

/** How many lines one stretch holds. */
export const linesAStretch = (lineSeconds: number) =>
  Math.max(1, Math.round(STRETCH_S / lineSeconds));

export function useStretch(episode: number, revision: number, start: number, frames: number) {
  return useQuery({
    queryKey: ["page", episode, revision, start, frames],
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/page", {
          params: { path: { episode_id: episode }, query: { revision, start, frames } },
        }),
      ),
  });
}

/** Peaks and body of every track, a byte a column. */
export interface Skyline {
  columns: number;
  peaks: Uint8Array[];
  body: Uint8Array[];
}

async function fetchSkyline(address: string, columns: number): Promise<Skyline> {
  const answer = await fetch(address);
  if (!answer.ok) throw new Problem("The picture of the sound did not come.", answer.status);
  const bytes = new Uint8Array(await answer.arrayBuffer());
  const rows = Array.from({ length: bytes.length / columns }, (_, i) =>
    bytes.subarray(i * columns, (i + 1) * columns),
  );
  return {
    columns,
    peaks: rows.filter((_, i) => i % 2 === 0),
    body: rows.filter((_, i) => i % 2 === 1),
  };
}

export function useSkyline(
  episode: number,
  revision: number,
  start: number,
  frames: number,
  columns: number,
) {
  return useQuery({
    queryKey: ["skyline", episode, revision, start, frames, columns],
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    enabled: columns > 0 && frames > 0,
    queryFn: () =>
      fetchSkyline(
        `/api/episodes/${episode}/skyline?revision=${revision}&start=${start}&frames=${frames}&columns=${columns}`,
        columns,
      ),
  });
}

/** Words in the stretches that the browser holds of a revision, in order of time. */
export function knownWords(queries: QueryClient, episode: number, revision: number) {
  const pages = queries.getQueriesData<PageData>({ queryKey: ["page", episode, revision] });
  const words = new Map<string, PageData["words"][number]>();
  for (const [, page] of pages) {
    for (const word of page?.revision === revision ? page.words : []) {
      words.set(`${word.take}:${word.word}:${word.start}`, word);
    }
  }
  return [...words.values()].sort((a, b) => a.start - b.start);
}

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

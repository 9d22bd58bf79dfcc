/** The parts of an episode as the running order has them, and what can be done with them. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, type Schemas, take } from "../../api/client";

export type Row = Schemas["Row"];

export const useRundown = (id: number, revision: number) =>
  useQuery({
    queryKey: ["rundown", id, revision],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/rundown", {
          params: { path: { episode_id: id }, query: { revision } },
        }),
      ),
  });

/** Before which part one has to be put to come to stand at `place`; null is the end. */
export function before(rows: readonly Row[], from: number, place: number): string | null {
  const rest = rows.filter((_, i) => i !== from);
  return rest[place]?.id ?? null;
}

/** What is said of where a part begins and ends. */
export const quoted = (words: string) => (words ? `“${words}”` : "");

/** The rows with one put before another, or at the end (null), as the server will have them. */
export function moved(rows: readonly Row[], id: string, to: string | null): readonly Row[] {
  const row = rows.find((one) => one.id === id);
  if (!row || id === to) return rows;
  const rest = rows.filter((one) => one !== row);
  const place = to === null ? rest.length : rest.findIndex((one) => one.id === to);
  let at = 0;
  return rest.toSpliced(place, 0, row).map((one) => {
    const here = at;
    at += one.frames;
    return one.at === here ? one : { ...one, at: here };
  });
}

/** The type under which a row's id is dragged. */
export const DRAGGED = "application/x-airtrim-part";

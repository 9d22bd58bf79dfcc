/** Places in an episode: the next of a kind, and what lies around one. */
import { client, type Episode, RATE, take } from "../api/client";
import { place, position } from "../playback/player";
import { announce } from "../theme/toaster";
import type { Span } from "../view/view";
import type { Context } from "./action";

export type Stop =
  | "word"
  | "sentence"
  | "splice"
  | "marker"
  | "section"
  | "air"
  | "filler"
  | "unsure";

export async function nextPlace({ episode }: Context, what: Stop, back: boolean, at = position()) {
  const found = await take(
    client.GET("/api/episodes/{episode_id}/next", {
      params: {
        path: { episode_id: episode.id },
        query: { revision: episode.revision, what, at: Math.max(0, Math.round(at)), back },
      },
    }),
  );
  return found.at;
}

export const skip = (what: Stop, back: boolean) => async (context: Context) => {
  const at = await nextPlace(context, what, back);
  const says = what === "unsure" ? "doubtful word" : what;
  if (at === null) return announce(`There is no ${says} ${back ? "before" : "after"} here.`);
  place(at);
};

export async function stretchAround(
  episode: Episode,
  unit: "word" | "sentence" | "turn" | "section",
  at: number,
): Promise<Span | null> {
  const found = await take(
    client.GET("/api/episodes/{episode_id}/around", {
      params: {
        path: { episode_id: episode.id },
        query: { revision: episode.revision, unit, at: Math.max(0, Math.round(at)) },
      },
    }),
  );
  return found.frames ? { start: found.start, end: found.start + found.frames } : null;
}

export const AROUND = 1.5 * RATE;

/** A second and a half to either side of a place, to listen across it. */
export const acrossOf = (at: number, total: number): Span => ({
  start: Math.max(0, at - AROUND),
  end: Math.min(total, at + AROUND),
});

/** The splice that an action means. */
import { client, RATE, type Splice, take } from "../api/client";
import { position } from "../playback/player";
import { announce } from "../theme/toaster";
import { useView } from "../view/view";
import type { Context } from "./action";
import { selection } from "./selection";

const NEAR = 120 * RATE;

/** The open splice, or the one nearest to the playhead within two minutes. */
async function nearestSplice({ episode }: Context): Promise<Splice | null> {
  const at = Math.round(selection()?.start ?? position());
  const start = Math.max(0, at - NEAR);
  const { splices } = await take(
    client.GET("/api/episodes/{episode_id}/page", {
      params: {
        path: { episode_id: episode.id },
        query: { revision: episode.revision, start, frames: 2 * NEAR },
      },
    }),
  );
  const nearest = splices.toSorted((a, b) => Math.abs(a.at - at) - Math.abs(b.at - at));
  return nearest.find((s) => s.cut === useView.getState().splice) ?? nearest[0] ?? null;
}

export const withSplice =
  (act: (splice: Splice, context: Context) => void) => async (context: Context) => {
    const splice = await nearestSplice(context);
    if (!splice) return void announce("Nothing was cut near here.");
    act(splice, context);
  };

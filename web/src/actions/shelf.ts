/** Keeping what is selected on the show's shelf of sounds. */
import { client, take } from "../api/client";
import { announce } from "../theme/toaster";
import { clock } from "../time";
import type { Action } from "./action";
import { selection, trackOf } from "./selection";

export const SHELF: Action[] = [
  {
    id: "keep-sound",
    group: "Edit",
    says: "Keep it on the shelf of sounds",
    also: "jingle music library",
    keys: ["Shift+K"],
    selected: true,
    menu: true,
    run: async ({ episode, queries }) => {
      const span = selection();
      const track = trackOf(episode);
      if (!span || !track) return;
      const name = `Sound from ${clock(span.start)}`;
      const frames = span.end - span.start;
      const where = { episode: episode.id, revision: span.revision, track };
      await take(
        client.POST("/api/sounds", {
          body: { ...where, start: span.start, frames, name, kind: "other" },
        }),
      );
      void queries.invalidateQueries({ queryKey: ["sounds", episode.id] });
      announce(`“${name}” stands on the shelf of sounds now, on Rundown.`);
    },
  },
];

/** What is selected, and edits of it. */
import type { Edit, Episode } from "../api/client";
import { place } from "../playback/player";
import { announce } from "../theme/toaster";
import { type Span, useView } from "../view/view";
import type { Context } from "./action";

export const selection = () => useView.getState().selection;

export const select = (span: Span | null) => useView.getState().select(span);

/** The track that one-track actions go to: the one pointed at last, or the first. */
export function trackOf(episode: Episode): string {
  const { track } = useView.getState();
  return episode.tracks.some((t) => t.id === track) ? (track ?? "") : (episode.tracks[0]?.id ?? "");
}

/** An edit of the selection; nothing where nothing is selected. */
export function onSelection(
  make: (span: { start: number; frames: number }, context: Context) => Edit,
  after: "clear" | "begin" | "keep" = "keep",
) {
  return (context: Context) => {
    const span = selection();
    if (!span) return void announce("Select something first: drag over the sound or the words.");
    context.edit(make({ start: span.start, frames: span.end - span.start }, context));
    if (after === "keep") return;
    place(after === "begin" ? 0 : span.start);
    select(null);
  };
}

/** What is selected, and edits of it. */
import type { Edit, Episode } from "../api/client";
import { place, position, positionRevision } from "../playback/player";
import { announce } from "../theme/toaster";
import { type Span, useView } from "../view/view";
import type { Context } from "./action";

/** What is selected, also while the server maps it to the revision on the screen. */
export const selection = () => useView.getState().selection ?? useView.getState().hidden;

export const select = (span: Span | null, revision?: number) =>
  useView.getState().select(span, revision);

/** A frame that the host means, with its revision: the start of the selection, or the playhead. */
export const pointed = (): { at: number; on: number } => {
  const span = selection();
  return span ? { at: span.start, on: span.revision } : playhead();
};

export const playhead = () => ({ at: position(), on: positionRevision() });

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
    const { start, end, revision } = span;
    context.edit(make({ start, frames: end - start }, context), { on: revision });
    if (after === "keep") return;
    if (after === "begin") place(0);
    else place(start, revision);
    select(null);
  };
}

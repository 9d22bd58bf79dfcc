/** Copying, pasting and moving spans. */

import { place } from "../playback/player";
import { announce } from "../theme/toaster";
import { type PointedSpan, useView } from "../view/view";
import type { Context } from "./action";
import { select, selection } from "./selection";

/** Paste at a frame of the revision `on`, and select what was pasted. */
export function paste({ episode, edit }: Context, { at, on }: { at: number; on: number }) {
  const { clipboard } = useView.getState();
  if (!clipboard || clipboard.episode !== episode.id) {
    return void announce("Nothing was copied in this episode yet.");
  }
  const frames = clipboard.end - clipboard.start;
  edit(
    { kind: "paste", revision: clipboard.revision, start: clipboard.start, frames, at },
    { on, after: (revision) => select({ start: at, end: at + frames }, revision) },
  );
}

export const copy = ({ episode }: Context) => {
  const span = selection();
  if (!span) return announce("Select something first: drag over the sound or the words.");
  useView.setState({
    clipboard: { ...span, episode: episode.id },
  });
  announce("Copied.");
};

/** Move a span so that it begins where frame `to` of the revision `on` is. */
export function moveTo({ edit }: Pick<Context, "edit">, span: PointedSpan, to: number, on: number) {
  if (on !== span.revision) {
    return void announce("The episode has just changed. Select the span again to move it.");
  }
  if (to >= span.start && to <= span.end) return;
  const frames = span.end - span.start;
  const start = to < span.start ? to : to - frames;
  edit(
    { kind: "move", start: span.start, frames, to },
    {
      on,
      after: (revision) => {
        place(start, revision);
        select({ start, end: start + frames }, revision);
      },
    },
  );
}

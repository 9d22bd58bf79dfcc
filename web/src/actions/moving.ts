/** Copying, pasting and moving spans. */

import { place } from "../playback/player";
import { announce } from "../theme/toaster";
import { type Span, useView } from "../view/view";
import type { Context } from "./action";
import { select, selection } from "./selection";

export function paste({ episode, edit }: Context, at: number) {
  const { clipboard } = useView.getState();
  if (!clipboard || clipboard.episode !== episode.id) {
    return void announce("Nothing was copied in this episode yet.");
  }
  const frames = clipboard.end - clipboard.start;
  edit({
    kind: "paste",
    revision: clipboard.revision,
    start: clipboard.start,
    frames,
    at,
  });
  select({ start: at, end: at + frames });
}

export const copy = ({ episode }: Context) => {
  const span = selection();
  if (!span) return announce("Select something first: drag over the sound or the words.");
  useView.setState({
    clipboard: { ...span, episode: episode.id, revision: episode.revision },
  });
  announce("Copied.");
};

/** Move a span so that it begins where frame `to` is. */
export function moveTo({ edit }: Pick<Context, "edit">, span: Span, to: number) {
  if (to >= span.start && to <= span.end) return;
  const frames = span.end - span.start;
  edit({ kind: "move", start: span.start, frames, to });
  const start = to < span.start ? to : to - frames;
  place(start);
  select({ start, end: start + frames });
}

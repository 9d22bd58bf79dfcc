/** Selecting. */
import { RATE } from "../api/client";
import { position } from "../playback/player";
import { wordBeside } from "../view/data";
import type { Span } from "../view/view";
import type { Action, Context } from "./action";
import { nextPlace, type Stop, stretchAround } from "./places";
import { select, selection } from "./selection";

const TEN_MS = RATE / 100;

const selectUnit = (unit: "word" | "sentence" | "turn" | "section") => async (c: Context) => {
  const span = await stretchAround(c.episode, unit, selection()?.start ?? position());
  if (span) select(span, c.episode.revision);
};

const extend = (what: Stop, back: boolean) => async (context: Context) => {
  const span = selection() ?? { start: position(), end: position() };
  if (what === "word") return extendByWord(context, span, back);
  if (back) {
    const at = await nextPlace(context, what, true, span.start);
    return select({ start: at ?? 0, end: span.end }, context.episode.revision);
  }
  const found = await stretchAround(context.episode, "sentence", span.end + 1);
  const at = found && found.end > span.end ? found.end : null;
  select({ start: span.start, end: at ?? context.episode.frames }, context.episode.revision);
};

async function extendByWord(context: Context, span: Span, back: boolean) {
  const { queries, episode } = context;
  const from = back ? span.start : span.end - 1;
  const known = wordBeside(queries, episode.id, episode.revision, from, back);
  const at = known ? null : await nextPlace(context, "word", back, from);
  const word = known ?? (at === null ? null : await stretchAround(episode, "word", at));
  if (!word) return;
  select(
    { start: Math.min(span.start, word.start), end: Math.max(span.end, word.end) },
    episode.revision,
  );
}

const nudge =
  (edge: "start" | "end", by: number) =>
  ({ episode }: Context) => {
    const span = selection() ?? { start: position(), end: position() };
    const moved = { ...span, [edge]: span[edge] + by };
    select({
      start: Math.max(0, Math.min(moved.start, moved.end)),
      end: Math.min(episode.frames, Math.max(moved.start, moved.end)),
    });
  };

export const SELECT: Action[] = [
  {
    id: "word-more",
    group: "Select",
    says: "Extend by a word",
    keys: ["Shift+ArrowRight"],
    run: extend("word", false),
  },
  {
    id: "word-more-back",
    group: "Select",
    says: "Extend back by a word",
    keys: ["Shift+ArrowLeft"],
    run: extend("word", true),
  },
  {
    id: "sentence-more",
    group: "Select",
    says: "Extend by a sentence",
    keys: ["Ctrl+Shift+ArrowRight"],
    run: extend("sentence", false),
  },
  {
    id: "sentence-more-back",
    group: "Select",
    says: "Extend back by a sentence",
    keys: ["Ctrl+Shift+ArrowLeft"],
    run: extend("sentence", true),
  },
  {
    id: "end-later",
    group: "Select",
    says: "End 10 ms later",
    also: "nudge edge",
    keys: [">"],
    run: nudge("end", TEN_MS),
  },
  {
    id: "end-earlier",
    group: "Select",
    says: "End 10 ms earlier",
    also: "nudge edge",
    keys: ["<"],
    run: nudge("end", -TEN_MS),
  },
  {
    id: "start-later",
    group: "Select",
    says: "Start 10 ms later",
    also: "nudge edge",
    keys: ["Alt+."],
    run: nudge("start", TEN_MS),
  },
  {
    id: "start-earlier",
    group: "Select",
    says: "Start 10 ms earlier",
    also: "nudge edge",
    keys: ["Alt+,"],
    run: nudge("start", -TEN_MS),
  },
  {
    id: "select-word",
    group: "Select",
    says: "Select this word",
    keys: ["W"],
    run: selectUnit("word"),
  },
  {
    id: "select-sentence",
    group: "Select",
    says: "Select this sentence",
    keys: ["E"],
    menu: true,
    run: selectUnit("sentence"),
  },
  {
    id: "select-turn",
    group: "Select",
    says: "Select this speaker’s turn",
    also: "person who voice",
    keys: ["T"],
    menu: true,
    run: selectUnit("turn"),
  },
  {
    id: "select-section",
    group: "Select",
    says: "Select this section",
    also: "part",
    keys: ["Shift+E"],
    run: selectUnit("section"),
  },
  {
    id: "select-markers",
    group: "Select",
    says: "Select between the markers",
    keys: ["B"],
    run: ({ episode }) => {
      const at = position();
      const start = episode.markers.findLast((m) => m.at <= at)?.at ?? 0;
      const end = episode.markers.find((m) => m.at > at)?.at ?? episode.frames;
      select({ start, end });
    },
  },
  {
    id: "select-all",
    group: "Select",
    says: "Select all",
    keys: ["Ctrl+A"],
    run: ({ episode }) => select({ start: 0, end: episode.frames }),
  },
  {
    id: "select-to-start",
    group: "Select",
    says: "Select everything before",
    keys: ["Shift+Home"],
    menu: true,
    run: () => select({ start: 0, end: selection()?.start ?? position() }),
  },
  {
    id: "select-to-end",
    group: "Select",
    says: "Select everything after",
    keys: ["Shift+End"],
    menu: true,
    run: ({ episode }) => select({ start: selection()?.end ?? position(), end: episode.frames }),
  },
];

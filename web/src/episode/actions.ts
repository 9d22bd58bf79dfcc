/**
 * All that can be done on the Page, each with its name and its key: keys, menus, the sheet of keys
 * and the page of keys are made from this one list.
 */
import type { QueryClient } from "@tanstack/react-query";
import { flushSync } from "react-dom";
import {
  client,
  type Decision,
  type Edit,
  type Episode,
  RATE,
  type Splice,
  take,
} from "../api/client";
import { knownWords } from "../page/data";
import { type Span, useView } from "../page/view";
import {
  loop,
  place,
  play,
  playAround,
  playRestored,
  playRevision,
  position,
  SPEEDS,
  setPlayCuts,
  setSpeed,
  stop,
  toggle,
  usePlayer,
} from "../playback/player";
import { chooseOption, goToSnag, hearSnag } from "../snags/deciding";
import { announce } from "../theme/toaster";

export interface Context {
  episode: Episode;
  queries: QueryClient;
  edit: (edit: Edit) => void;
  /** Settle snags; done when the episode has come back changed. */
  decide: (decisions: Decision[]) => Promise<Episode>;
  undo: () => void;
  redo: () => void;
  showSheet: () => void;
  retake: () => void;
}

export interface Action {
  id: string;
  group: "Play" | "Go" | "Select" | "Edit" | "Snags" | "Gain" | "Mark" | "Look";
  says: string;
  keys: string[];
  /** It acts on the selection, and stands in the menu only with one. */
  selected?: boolean;
  /** It stands in the menu of the Page. */
  menu?: boolean;
  /** It lasts while its key is held down. */
  release?: (context: Context) => void;
  run: (context: Context) => void | Promise<void>;
}

const TEN_MS = RATE / 100;
const AROUND = 1.5 * RATE;

const selection = () => useView.getState().selection;
const select = (span: Span | null) => useView.getState().select(span);

/** The track that one-track actions go to: the one pointed at last, or the first. */
export function trackOf(episode: Episode): string {
  const { track } = useView.getState();
  return episode.tracks.some((t) => t.id === track) ? (track ?? "") : (episode.tracks[0]?.id ?? "");
}

/** The edit that cuts a selection. */
export const cutOf = (span: Span) => ({
  kind: "cut" as const,
  start: span.start,
  frames: span.end - span.start,
  crossfade_frames: 480,
});

/** An edit of the selection; nothing where nothing is selected. */
function onSelection(
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

type Stop = "word" | "sentence" | "splice" | "marker" | "section" | "air" | "filler" | "unsure";

async function nextPlace({ episode }: Context, what: Stop, back: boolean, at = position()) {
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

const skip = (what: Stop, back: boolean) => async (context: Context) => {
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

const selectUnit = (unit: "word" | "sentence" | "turn" | "section") => async (c: Context) => {
  const span = await stretchAround(c.episode, unit, selection()?.start ?? position());
  if (span) select(span);
};

const extend = (what: Stop, back: boolean) => async (context: Context) => {
  const span = selection() ?? { start: position(), end: position() };
  if (what === "word") return extendByWord(context, span, back);
  if (back) {
    const at = await nextPlace(context, what, true, span.start);
    return select({ start: at ?? 0, end: span.end });
  }
  const found = await stretchAround(context.episode, "sentence", span.end + 1);
  const at = found && found.end > span.end ? found.end : null;
  select({ start: span.start, end: at ?? context.episode.frames });
};

function extendByWord({ queries, episode }: Context, span: Span, back: boolean) {
  const words = knownWords(queries, episode.id, episode.revision);
  const word = back
    ? words.findLast((w) => w.start < span.start)
    : words.find((w) => w.start > span.end - 1);
  if (!word) return;
  select({ start: Math.min(span.start, word.start), end: Math.max(span.end, word.end) });
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

const withSplice =
  (act: (splice: Splice, context: Context) => void) => async (context: Context) => {
    const splice = await nearestSplice(context);
    if (!splice) return void announce("Nothing was cut near here.");
    act(splice, context);
  };

const moveEdge = (left: number, right: number) =>
  withSplice((splice, { edit }) => {
    edit({ kind: "move_edges", cut: splice.cut, left, right });
  });

const gain = (by_db: number) =>
  onSelection(({ start, frames }, { episode }) => ({
    kind: "gain_span",
    tracks: [trackOf(episode)],
    start,
    frames,
    by_db,
    ramp_frames: RATE / 20,
  }));

const fade = (inwards: boolean) =>
  onSelection(({ start, frames }) => ({
    kind: "fade_span",
    tracks: [],
    start,
    frames,
    inwards,
    shape: "round",
  }));

function paste({ episode, edit }: Context, at: number) {
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
    crossfade_frames: 480,
  });
  select({ start: at, end: at + frames });
}

const copy = ({ episode }: Context) => {
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
  edit({ kind: "move", start: span.start, frames, to, crossfade_frames: 480 });
  const start = to < span.start ? to : to - frames;
  place(start);
  select({ start, end: start + frames });
}

const speed = (by: number) => () => {
  const now = SPEEDS.indexOf(usePlayer.getState().speed as (typeof SPEEDS)[number]);
  const next = SPEEDS[now + by];
  if (next) setSpeed(next);
};

export function addSection({ episode, edit }: Pick<Context, "episode" | "edit">, at: number) {
  const sections = episode.sections.map((s) => ({ id: s.id, at: s.at, name: s.name }));
  if (sections.some((s) => s.at === at)) return;
  edit({ kind: "set_sections", sections: [...sections, { at, name: "New section" }] });
}

export const ACTIONS: Action[] = [
  { id: "play", group: "Play", says: "Play, pause", keys: ["Space"], run: toggle },
  {
    id: "play-selection",
    group: "Play",
    says: "Hear the selection",
    keys: ["Enter"],
    selected: true,
    menu: true,
    run: () => {
      const span = selection();
      if (span) play(span.start, span.end);
    },
  },
  {
    id: "loop",
    group: "Play",
    says: "Hear the selection again and again",
    keys: ["L"],
    selected: true,
    run: () => {
      const span = selection();
      if (usePlayer.getState().looping) stop();
      else if (span) loop(span.start, span.end);
    },
  },
  {
    id: "play-splice",
    group: "Play",
    says: "Hear across the nearest splice",
    keys: ["J"],
    menu: true,
    run: withSplice((splice) => playAround(splice.at)),
  },
  {
    id: "play-restored",
    group: "Play",
    says: "Hear it with what was cut there",
    keys: ["Shift+J"],
    run: withSplice((splice) => playRestored(splice)),
  },
  {
    id: "play-cuts",
    group: "Play",
    says: "Play what was cut, or skip it",
    keys: ["P"],
    run: () => {
      const cuts = !usePlayer.getState().playCuts;
      setPlayCuts(cuts);
      announce(cuts ? "What was cut is played in its place." : "What was cut is skipped.");
    },
  },
  { id: "slower", group: "Play", says: "Slower", keys: ["["], run: speed(-1) },
  { id: "faster", group: "Play", says: "Faster", keys: ["]"], run: speed(1) },
  {
    id: "stop",
    group: "Play",
    says: "Stop; select nothing",
    keys: ["Escape"],
    run: () => {
      stop();
      useView.setState({ carrying: null, splice: null, snag: null });
      select(null);
    },
  },
  {
    id: "word-on",
    group: "Go",
    says: "To the next word",
    keys: ["ArrowRight"],
    run: (c) => byWord(c, false),
  },
  {
    id: "word-back",
    group: "Go",
    says: "To the word before",
    keys: ["ArrowLeft"],
    run: (c) => byWord(c, true),
  },
  {
    id: "sentence-on",
    group: "Go",
    says: "To the next sentence",
    keys: ["Ctrl+ArrowRight"],
    run: skip("sentence", false),
  },
  {
    id: "sentence-back",
    group: "Go",
    says: "To the sentence before",
    keys: ["Ctrl+ArrowLeft"],
    run: skip("sentence", true),
  },
  {
    id: "line-up",
    group: "Go",
    says: "A line up",
    keys: ["ArrowUp"],
    run: () => place(position() - useView.getState().lineSeconds * RATE),
  },
  {
    id: "line-down",
    group: "Go",
    says: "A line down",
    keys: ["ArrowDown"],
    run: () => place(position() + useView.getState().lineSeconds * RATE),
  },
  { id: "home", group: "Go", says: "To the start", keys: ["Home"], run: () => place(0) },
  {
    id: "end",
    group: "Go",
    says: "To the end",
    keys: ["End"],
    run: ({ episode }) => place(episode.frames),
  },
  {
    id: "splice-on",
    group: "Go",
    says: "To the next splice",
    keys: ["."],
    run: skip("splice", false),
  },
  {
    id: "splice-back",
    group: "Go",
    says: "To the splice before",
    keys: [","],
    run: skip("splice", true),
  },
  { id: "air-on", group: "Go", says: "To the next long air", keys: ["A"], run: skip("air", false) },
  {
    id: "air-back",
    group: "Go",
    says: "To the long air before",
    keys: ["Shift+A"],
    run: skip("air", true),
  },
  {
    id: "filler-on",
    group: "Go",
    says: "To the next filler",
    keys: ["U"],
    run: skip("filler", false),
  },
  {
    id: "filler-back",
    group: "Go",
    says: "To the filler before",
    keys: ["Shift+U"],
    run: skip("filler", true),
  },
  {
    id: "unsure-on",
    group: "Go",
    says: "To the next doubtful word",
    keys: ["Shift+W"],
    run: skip("unsure", false),
  },
  {
    id: "unsure-back",
    group: "Go",
    says: "To the doubtful word before",
    keys: ["Alt+W"],
    run: skip("unsure", true),
  },
  {
    id: "marker-on",
    group: "Go",
    says: "To the next marker",
    keys: ["N"],
    run: skip("marker", false),
  },
  {
    id: "marker-back",
    group: "Go",
    says: "To the marker before",
    keys: ["Shift+N"],
    run: skip("marker", true),
  },
  {
    id: "section-on",
    group: "Go",
    says: "To the next section",
    keys: ["PageDown"],
    run: skip("section", false),
  },
  {
    id: "section-back",
    group: "Go",
    says: "To the section before",
    keys: ["PageUp"],
    run: skip("section", true),
  },
  {
    id: "word-more",
    group: "Select",
    says: "A word more",
    keys: ["Shift+ArrowRight"],
    run: extend("word", false),
  },
  {
    id: "word-more-back",
    group: "Select",
    says: "A word more, backwards",
    keys: ["Shift+ArrowLeft"],
    run: extend("word", true),
  },
  {
    id: "sentence-more",
    group: "Select",
    says: "A sentence more",
    keys: ["Ctrl+Shift+ArrowRight"],
    run: extend("sentence", false),
  },
  {
    id: "sentence-more-back",
    group: "Select",
    says: "A sentence more, backwards",
    keys: ["Ctrl+Shift+ArrowLeft"],
    run: extend("sentence", true),
  },
  {
    id: "end-later",
    group: "Select",
    says: "Its end 10 ms later",
    keys: [">"],
    run: nudge("end", TEN_MS),
  },
  {
    id: "end-earlier",
    group: "Select",
    says: "Its end 10 ms earlier",
    keys: ["<"],
    run: nudge("end", -TEN_MS),
  },
  {
    id: "start-later",
    group: "Select",
    says: "Its start 10 ms later",
    keys: ["Alt+."],
    run: nudge("start", TEN_MS),
  },
  {
    id: "start-earlier",
    group: "Select",
    says: "Its start 10 ms earlier",
    keys: ["Alt+,"],
    run: nudge("start", -TEN_MS),
  },
  {
    id: "select-word",
    group: "Select",
    says: "The word here",
    keys: ["W"],
    run: selectUnit("word"),
  },
  {
    id: "select-sentence",
    group: "Select",
    says: "The sentence here",
    keys: ["E"],
    menu: true,
    run: selectUnit("sentence"),
  },
  {
    id: "select-turn",
    group: "Select",
    says: "The speaker’s turn here",
    keys: ["T"],
    menu: true,
    run: selectUnit("turn"),
  },
  {
    id: "select-section",
    group: "Select",
    says: "The section here",
    keys: ["Shift+E"],
    run: selectUnit("section"),
  },
  {
    id: "select-markers",
    group: "Select",
    says: "From the marker before to the next",
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
    says: "Everything",
    keys: ["Ctrl+A"],
    run: ({ episode }) => select({ start: 0, end: episode.frames }),
  },
  {
    id: "select-to-start",
    group: "Select",
    says: "Everything before it",
    keys: ["Shift+Home"],
    menu: true,
    run: () => select({ start: 0, end: selection()?.start ?? position() }),
  },
  {
    id: "select-to-end",
    group: "Select",
    says: "Everything after it",
    keys: ["Shift+End"],
    menu: true,
    run: ({ episode }) => select({ start: selection()?.end ?? position(), end: episode.frames }),
  },
  {
    id: "cut",
    group: "Edit",
    says: "Cut it from every track",
    keys: ["Delete", "Backspace"],
    selected: true,
    menu: true,
    run: (c) => {
      if (selection())
        onSelection((s) => ({ kind: "cut", ...s, crossfade_frames: 480 }), "clear")(c);
    },
  },
  {
    id: "cut-alone",
    group: "Edit",
    says: "Cut it from this track alone",
    keys: ["Shift+Delete"],
    selected: true,
    menu: true,
    run: onSelection(
      (s, { episode }) => ({
        kind: "cut_alone",
        track: trackOf(episode),
        ...s,
        crossfade_frames: 480,
      }),
      "clear",
    ),
  },
  {
    id: "cover",
    group: "Edit",
    says: "Cover it with room tone on this track",
    keys: ["C"],
    selected: true,
    menu: true,
    run: onSelection((s, { episode }) => ({
      kind: "cover",
      track: trackOf(episode),
      ...s,
      crossfade_frames: 480,
    })),
  },
  {
    id: "silence",
    group: "Edit",
    says: "Silence it on this track",
    keys: ["Shift+C"],
    selected: true,
    menu: true,
    run: onSelection((s, { episode }) => ({ kind: "silence", tracks: [trackOf(episode)], ...s })),
  },
  {
    id: "keep-only",
    group: "Edit",
    says: "Keep only this",
    keys: ["K"],
    selected: true,
    menu: true,
    run: onSelection((s) => ({ kind: "keep_only", ...s, crossfade_frames: 480 }), "begin"),
  },
  {
    id: "copy",
    group: "Edit",
    says: "Copy",
    keys: ["Ctrl+C"],
    selected: true,
    menu: true,
    run: copy,
  },
  {
    id: "take-out",
    group: "Edit",
    says: "Cut it, to put it in elsewhere",
    keys: ["Ctrl+X"],
    selected: true,
    run: (c) => {
      copy(c);
      onSelection((s) => ({ kind: "cut", ...s, crossfade_frames: 480 }), "clear")(c);
    },
  },
  {
    id: "paste",
    group: "Edit",
    says: "Put in what was copied",
    keys: ["Ctrl+V"],
    menu: true,
    run: (c) => paste(c, position()),
  },
  {
    id: "duplicate",
    group: "Edit",
    says: "Say it twice: a copy after it",
    keys: ["D"],
    selected: true,
    run: (c) => {
      const span = selection();
      copy(c);
      if (span) paste(c, span.end);
    },
  },
  {
    id: "move-front",
    group: "Edit",
    says: "Move it to the front",
    keys: ["Shift+G"],
    selected: true,
    menu: true,
    run: (c) => {
      const span = selection();
      if (span) moveTo(c, span, 0);
    },
  },
  {
    id: "move",
    group: "Edit",
    says: "Move it: point at where it goes",
    keys: ["G"],
    selected: true,
    menu: true,
    run: (c) => {
      const { carrying } = useView.getState();
      if (carrying) {
        useView.setState({ carrying: null });
        return moveTo(c, carrying, position());
      }
      useView.setState({ carrying: selection() });
    },
  },
  {
    id: "add-air",
    group: "Edit",
    says: "Add half a second of air here",
    keys: ["I"],
    menu: true,
    run: ({ edit }) =>
      edit({ kind: "add_air", at: position(), frames: RATE / 2, crossfade_frames: 480 }),
  },
  {
    id: "set-air",
    group: "Edit",
    says: "Make this air 0.6 s long",
    keys: ["Shift+I"],
    selected: true,
    menu: true,
    run: (c) => {
      onSelection((s) => ({ kind: "set_air", ...s, to_frames: 0.6 * RATE, crossfade_frames: 480 }))(
        c,
      );
      select(null);
    },
  },
  {
    id: "split",
    group: "Edit",
    says: "Split the clips here",
    keys: ["S"],
    menu: true,
    run: ({ edit }) => edit({ kind: "split", at: position(), tracks: [] }),
  },
  {
    id: "join",
    group: "Edit",
    says: "Join what was split",
    keys: ["Shift+S"],
    selected: true,
    run: onSelection((s) => ({ kind: "join", ...s })),
  },
  {
    id: "restore",
    group: "Edit",
    says: "Put the nearest cut back",
    keys: ["R"],
    menu: true,
    run: withSplice((s, { edit }) => edit({ kind: "restore", cut: s.cut })),
  },
  {
    id: "restore-all",
    group: "Edit",
    says: "Put back all that was cut in it",
    keys: ["Shift+R"],
    selected: true,
    run: onSelection((s) => ({ kind: "restore_all", ...s })),
  },
  {
    id: "uncover",
    group: "Edit",
    says: "Bring back what is under the room tone here",
    keys: ["Shift+O"],
    menu: true,
    run: ({ edit, episode }) =>
      edit({ kind: "uncover", track: trackOf(episode), at: selection()?.start ?? position() }),
  },
  {
    id: "retake",
    group: "Edit",
    says: "Record it again",
    keys: ["Shift+T"],
    selected: true,
    menu: true,
    run: ({ retake }) => retake(),
  },
  { id: "undo", group: "Edit", says: "Undo", keys: ["Ctrl+Z"], run: ({ undo }) => undo() },
  {
    id: "redo",
    group: "Edit",
    says: "Redo",
    keys: ["Ctrl+Shift+Z", "Ctrl+Y"],
    run: ({ redo }) => redo(),
  },
  {
    id: "open-splice",
    group: "Edit",
    says: "Open the nearest splice",
    keys: ["O"],
    run: withSplice((splice) => {
      place(splice.at);
      useView.setState({ splice: splice.cut });
    }),
  },
  {
    id: "left-earlier",
    group: "Edit",
    says: "Splice: left edge 10 ms earlier",
    keys: ["Alt+Shift+ArrowLeft"],
    run: moveEdge(-TEN_MS, 0),
  },
  {
    id: "left-later",
    group: "Edit",
    says: "Splice: left edge 10 ms later",
    keys: ["Alt+Shift+ArrowRight"],
    run: moveEdge(TEN_MS, 0),
  },
  {
    id: "right-earlier",
    group: "Edit",
    says: "Splice: right edge 10 ms earlier",
    keys: ["Alt+Shift+ArrowDown"],
    run: moveEdge(0, -TEN_MS),
  },
  {
    id: "right-later",
    group: "Edit",
    says: "Splice: right edge 10 ms later",
    keys: ["Alt+Shift+ArrowUp"],
    run: moveEdge(0, TEN_MS),
  },
  { id: "snag-on", group: "Snags", says: "To the next snag", keys: ["Z"], run: goToSnag(false) },
  {
    id: "snag-back",
    group: "Snags",
    says: "To the snag before",
    keys: ["Shift+Z"],
    run: goToSnag(true),
  },
  {
    id: "snag-hear",
    group: "Snags",
    says: "Hear it as it would be",
    keys: ["H"],
    run: hearSnag(true),
  },
  {
    id: "snag-as-is",
    group: "Snags",
    says: "Hear it as it is",
    keys: ["Shift+H"],
    run: hearSnag(false),
  },
  {
    id: "snag-1",
    group: "Snags",
    says: "Do what is proposed",
    keys: ["1"],
    run: chooseOption(0),
  },
  {
    id: "snag-2",
    group: "Snags",
    says: "Do the second thing, or keep that attempt",
    keys: ["2"],
    run: chooseOption(1),
  },
  {
    id: "snag-3",
    group: "Snags",
    says: "Do the third",
    keys: ["3"],
    run: chooseOption(2),
  },
  {
    id: "snag-keep",
    group: "Snags",
    says: "Keep it as it is",
    keys: ["0"],
    run: chooseOption("keep"),
  },
  {
    id: "louder",
    group: "Gain",
    says: "This track 1 dB louder there",
    keys: ["Shift+ArrowUp"],
    selected: true,
    run: gain(1),
  },
  {
    id: "quieter",
    group: "Gain",
    says: "This track 1 dB quieter there",
    keys: ["Shift+ArrowDown"],
    selected: true,
    run: gain(-1),
  },
  {
    id: "dip",
    group: "Gain",
    says: "Dip this track by 6 dB there",
    keys: ["Shift+D"],
    selected: true,
    menu: true,
    run: gain(-6),
  },
  {
    id: "fade-in",
    group: "Gain",
    says: "Fade in over it",
    keys: ["F"],
    selected: true,
    menu: true,
    run: fade(true),
  },
  {
    id: "fade-out",
    group: "Gain",
    says: "Fade out over it",
    keys: ["Shift+F"],
    selected: true,
    menu: true,
    run: fade(false),
  },
  {
    id: "marker",
    group: "Mark",
    says: "Set a marker here",
    keys: ["M"],
    menu: true,
    run: ({ edit }) => edit({ kind: "add_marker", at: position(), marks: "note", name: "" }),
  },
  {
    id: "section",
    group: "Mark",
    says: "Start a section here",
    keys: ["Shift+M"],
    menu: true,
    run: (c) => addSection(c, selection()?.start ?? position()),
  },
  {
    id: "room-tone",
    group: "Mark",
    says: "Take it as room tone",
    keys: ["Shift+B"],
    selected: true,
    run: onSelection((s) => ({ kind: "choose_room_tone", ...s })),
  },
  {
    id: "find",
    group: "Look",
    says: "Find words",
    keys: ["/"],
    run: () => {
      // At once, so that what is typed next goes into the field.
      flushSync(() => useView.setState({ panel: "Find" }));
      document.querySelector<HTMLInputElement>("[data-find]")?.select();
    },
  },
  {
    id: "closer",
    group: "Look",
    says: "Shorter lines",
    keys: ["+", "="],
    run: () => useView.getState().zoom(true),
  },
  {
    id: "farther",
    group: "Look",
    says: "Longer lines",
    keys: ["-", "−"],
    run: () => useView.getState().zoom(false),
  },
  {
    id: "show-cuts",
    group: "Look",
    says: "Show what was cut, in its place",
    keys: ["X"],
    run: () => useView.setState((v) => ({ showCuts: !v.showCuts })),
  },
  {
    id: "show-gain",
    group: "Look",
    says: "Show the gain of the tracks",
    keys: ["V"],
    run: () => useView.setState((v) => ({ showGain: !v.showGain })),
  },
  {
    id: "next-track",
    group: "Look",
    says: "Another track for what is done to one",
    keys: ["Y"],
    run: ({ episode }) => {
      const index = episode.tracks.findIndex((t) => t.id === trackOf(episode));
      const track = episode.tracks[(index + 1) % episode.tracks.length];
      if (track) {
        useView.setState({ track: track.id });
        announce(`Now on ${track.name}.`);
      }
    },
  },
  {
    id: "before",
    group: "Look",
    says: "Hold: as it was before the last edit",
    keys: ["Q"],
    run: ({ episode }) => {
      if (episode.undo === null || useView.getState().before) return;
      useView.setState({ before: true });
      if (usePlayer.getState().playing) playRevision(episode.before, position());
    },
    release: ({ episode }) => {
      if (!useView.getState().before) return;
      useView.setState({ before: false });
      if (usePlayer.getState().playing) play(Math.min(position(), episode.frames));
    },
  },
  {
    id: "sheet",
    group: "Look",
    says: "These keys",
    keys: ["?"],
    run: ({ showSheet }) => showSheet(),
  },
];

function byWord({ queries, episode }: Context, back: boolean) {
  const words = knownWords(queries, episode.id, episode.revision);
  const at = position();
  const word = back ? words.findLast((w) => w.start < at) : words.find((w) => w.start > at);
  select(null);
  if (word) place(word.start);
}

/** A second and a half to either side of a place, to listen across it. */
export const acrossOf = (at: number, total: number): Span => ({
  start: Math.max(0, at - AROUND),
  end: Math.min(total, at + AROUND),
});

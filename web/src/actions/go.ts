/** Going from place to place. */
import { RATE } from "../api/client";
import { place, position } from "../playback/player";
import { wordBeside } from "../view/data";
import { useView } from "../view/view";
import type { Action, Context } from "./action";
import { skip } from "./places";
import { select } from "./selection";

function byWord(context: Context, back: boolean) {
  const { queries, episode } = context;
  const word = wordBeside(queries, episode.id, episode.revision, position(), back);
  select(null);
  return word ? place(word.start) : skip("word", back)(context);
}

export const GO: Action[] = [
  {
    id: "word-on",
    group: "Go",
    says: "Next word",
    stages: "everywhere",
    keys: ["ArrowRight"],
    run: (c) => byWord(c, false),
  },
  {
    id: "word-back",
    group: "Go",
    says: "Previous word",
    stages: "everywhere",
    keys: ["ArrowLeft"],
    run: (c) => byWord(c, true),
  },
  {
    id: "sentence-on",
    group: "Go",
    says: "Next sentence",
    keys: ["Ctrl+ArrowRight"],
    run: skip("sentence", false),
  },
  {
    id: "sentence-back",
    group: "Go",
    says: "Previous sentence",
    keys: ["Ctrl+ArrowLeft"],
    run: skip("sentence", true),
  },
  {
    id: "line-up",
    group: "Go",
    says: "One line up",
    stages: "everywhere",
    keys: ["ArrowUp"],
    run: () => place(position() - useView.getState().lineSeconds * RATE),
  },
  {
    id: "line-down",
    group: "Go",
    says: "One line down",
    stages: "everywhere",
    keys: ["ArrowDown"],
    run: () => place(position() + useView.getState().lineSeconds * RATE),
  },
  {
    id: "home",
    group: "Go",
    says: "Start of the episode",
    also: "beginning",
    stages: "everywhere",
    keys: ["Home"],
    run: () => place(0),
  },
  {
    id: "end",
    group: "Go",
    says: "End of the episode",
    stages: "everywhere",
    keys: ["End"],
    run: ({ episode }) => place(episode.frames),
  },
  {
    id: "splice-on",
    group: "Go",
    says: "Next splice",
    also: "edit place",
    keys: ["."],
    run: skip("splice", false),
  },
  {
    id: "splice-back",
    group: "Go",
    says: "Previous splice",
    also: "edit place",
    keys: [","],
    run: skip("splice", true),
  },
  {
    id: "air-on",
    group: "Go",
    says: "Next long air",
    also: "pause silence gap",
    keys: ["A"],
    run: skip("air", false),
  },
  {
    id: "air-back",
    group: "Go",
    says: "Previous long air",
    also: "pause silence gap",
    keys: ["Shift+A"],
    run: skip("air", true),
  },
  {
    id: "filler-on",
    group: "Go",
    says: "Next filler",
    also: "um uh er hesitation",
    keys: ["U"],
    run: skip("filler", false),
  },
  {
    id: "filler-back",
    group: "Go",
    says: "Previous filler",
    also: "um uh er hesitation",
    keys: ["Shift+U"],
    run: skip("filler", true),
  },
  {
    id: "unsure-on",
    group: "Go",
    says: "Next doubtful word",
    also: "wrong mistake spelling",
    keys: ["Shift+W"],
    run: skip("unsure", false),
  },
  {
    id: "unsure-back",
    group: "Go",
    says: "Previous doubtful word",
    also: "wrong mistake spelling",
    keys: ["Alt+W"],
    run: skip("unsure", true),
  },
  {
    id: "marker-on",
    group: "Go",
    says: "Next marker",
    also: "flag bookmark",
    keys: ["N"],
    run: skip("marker", false),
  },
  {
    id: "marker-back",
    group: "Go",
    says: "Previous marker",
    also: "flag bookmark",
    keys: ["Shift+N"],
    run: skip("marker", true),
  },
  {
    id: "section-on",
    group: "Go",
    says: "Next section",
    also: "part",
    keys: ["PageDown"],
    run: skip("section", false),
  },
  {
    id: "section-back",
    group: "Go",
    says: "Previous section",
    also: "part",
    keys: ["PageUp"],
    run: skip("section", true),
  },
];

/** Hearing: playing, looping, speed. */

import {
  loop,
  play,
  playAround,
  playRestored,
  SPEEDS,
  setPlayCuts,
  setSpeed,
  stop,
  toggle,
  usePlayer,
} from "../playback/player";
import { announce } from "../theme/toaster";
import { useView } from "../view/view";
import type { Action } from "./action";
import { select, selection } from "./selection";
import { withSplice } from "./splices";

const speed = (by: number) => () => {
  const now = SPEEDS.indexOf(usePlayer.getState().speed as (typeof SPEEDS)[number]);
  const next = SPEEDS[now + by];
  if (next) setSpeed(next);
};

export const PLAY: Action[] = [
  {
    id: "play",
    group: "Play",
    says: "Play, pause",
    also: "hear listen start stop",
    stages: "everywhere",
    keys: ["Space"],
    run: toggle,
  },
  {
    id: "play-selection",
    group: "Play",
    says: "Play the selection",
    also: "hear listen",
    stages: "everywhere",
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
    says: "Loop the selection",
    also: "repeat again",
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
    says: "Play across the nearest splice",
    also: "hear listen join",
    keys: ["J"],
    menu: true,
    run: withSplice((splice) => playAround(splice.at)),
  },
  {
    id: "play-restored",
    group: "Play",
    says: "Play it with what was cut there",
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
  {
    id: "slower",
    group: "Play",
    says: "Slower",
    also: "speed",
    stages: "everywhere",
    keys: ["["],
    run: speed(-1),
  },
  {
    id: "faster",
    group: "Play",
    says: "Faster",
    also: "speed",
    stages: "everywhere",
    keys: ["]"],
    run: speed(1),
  },
  {
    id: "stop",
    group: "Play",
    says: "Stop and clear the selection",
    also: "deselect nothing",
    stages: "everywhere",
    keys: ["Escape"],
    run: () => {
      stop();
      useView.setState({ carrying: null, splice: null, snag: null });
      select(null);
    },
  },
];

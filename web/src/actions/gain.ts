/** Gain and fades over the selection. */
import { RATE } from "../api/client";
import { useView } from "../view/view";
import type { Action } from "./action";
import { onSelection, trackOf } from "./selection";

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
    // The track that the host pointed at; without one, all tracks.
    tracks: useView.getState().track ? [useView.getState().track ?? ""] : [],
    start,
    frames,
    inwards,
    shape: "round",
  }));

export const GAIN: Action[] = [
  {
    id: "louder",
    group: "Gain",
    says: "This track 1 dB louder",
    also: "volume up raise",
    keys: ["Shift+ArrowUp"],
    selected: true,
    run: gain(1),
  },
  {
    id: "quieter",
    group: "Gain",
    says: "This track 1 dB quieter",
    also: "volume down lower",
    keys: ["Shift+ArrowDown"],
    selected: true,
    run: gain(-1),
  },
  {
    id: "dip",
    group: "Gain",
    says: "Dip this track by 6 dB",
    also: "volume duck lower",
    keys: ["Shift+D"],
    selected: true,
    menu: true,
    run: gain(-6),
  },
  {
    id: "fade-in",
    group: "Gain",
    says: "Fade in over the selection",
    also: "volume",
    keys: ["F"],
    selected: true,
    menu: true,
    run: fade(true),
  },
  {
    id: "fade-out",
    group: "Gain",
    says: "Fade out over the selection",
    also: "volume",
    keys: ["Shift+F"],
    selected: true,
    menu: true,
    run: fade(false),
  },
];

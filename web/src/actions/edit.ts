/** Editing what is selected, or what is at the playhead. */
import { RATE } from "../api/client";
import { place } from "../playback/player";
import { useView } from "../view/view";
import type { Action } from "./action";
import { copy, moveTo, paste } from "./moving";
import { onSelection, playhead, pointed, select, selection, trackOf } from "./selection";
import { withSplice } from "./splices";

const TEN_MS = RATE / 100;

const moveEdge = (left: number, right: number) =>
  withSplice((splice, { edit }) => {
    edit({ kind: "move_edges", cut: splice.cut, left, right });
  });

export const EDIT: Action[] = [
  {
    id: "cut",
    group: "Edit",
    says: "Cut from every track",
    also: "delete remove erase shorten take out",
    keys: ["Delete", "Backspace"],
    selected: true,
    menu: true,
    run: (c) => {
      if (selection()) onSelection((s) => ({ kind: "cut", ...s }), "clear")(c);
    },
  },
  {
    id: "cut-alone",
    group: "Edit",
    says: "Cut from this track only",
    also: "delete remove erase",
    keys: ["Shift+Delete"],
    selected: true,
    menu: true,
    run: onSelection(
      (s, { episode }) => ({
        kind: "cut_alone",
        track: trackOf(episode),
        ...s,
      }),
      "clear",
    ),
  },
  {
    id: "cover",
    group: "Edit",
    says: "Cover with room tone on this track",
    also: "hide cough noise replace",
    keys: ["C"],
    selected: true,
    menu: true,
    run: onSelection((s, { episode }) => ({
      kind: "cover",
      track: trackOf(episode),
      ...s,
    })),
  },
  {
    id: "silence",
    group: "Edit",
    says: "Silence on this track",
    also: "mute bleep",
    keys: ["Shift+C"],
    selected: true,
    menu: true,
    run: onSelection((s, { episode }) => ({ kind: "silence", tracks: [trackOf(episode)], ...s })),
  },
  {
    id: "keep-only",
    group: "Edit",
    says: "Keep only this",
    also: "crop trim rest",
    keys: ["K"],
    selected: true,
    menu: true,
    run: onSelection((s) => ({ kind: "keep_only", ...s }), "begin"),
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
    says: "Cut and copy",
    keys: ["Ctrl+X"],
    selected: true,
    run: (c) => {
      copy(c);
      onSelection((s) => ({ kind: "cut", ...s }), "clear")(c);
    },
  },
  {
    id: "paste",
    group: "Edit",
    says: "Paste",
    also: "insert",
    keys: ["Ctrl+V"],
    menu: true,
    run: (c) => paste(c, playhead()),
  },
  {
    id: "duplicate",
    group: "Edit",
    says: "Duplicate",
    also: "repeat twice double",
    keys: ["D"],
    selected: true,
    run: (c) => {
      const span = selection();
      copy(c);
      if (span) paste(c, { at: span.end, on: span.revision });
    },
  },
  {
    id: "move-front",
    group: "Edit",
    says: "Move to the start",
    also: "beginning",
    keys: ["Shift+G"],
    selected: true,
    menu: true,
    run: (c) => {
      const span = selection();
      if (span) moveTo(c, span, 0, span.revision);
    },
  },
  {
    id: "move",
    group: "Edit",
    says: "Move: point at where it goes",
    keys: ["G"],
    selected: true,
    menu: true,
    run: (c) => {
      const { carrying } = useView.getState();
      if (carrying) {
        useView.setState({ carrying: null });
        const { at, on } = playhead();
        return moveTo(c, carrying, at, on);
      }
      useView.setState({ carrying: selection() });
    },
  },
  {
    id: "add-air",
    group: "Edit",
    says: "Add half a second of air here",
    also: "pause gap insert longer breath",
    keys: ["I"],
    menu: true,
    run: ({ edit }) => {
      const { at, on } = playhead();
      edit({ kind: "add_air", at, frames: RATE / 2 }, { on });
    },
  },
  {
    id: "set-air",
    group: "Edit",
    says: "Set this air to 0.6 s",
    also: "pause gap shorten",
    keys: ["Shift+I"],
    selected: true,
    menu: true,
    run: (c) => {
      onSelection((s) => ({ kind: "set_air", ...s, to_frames: 0.6 * RATE }))(c);
      select(null);
    },
  },
  {
    id: "split",
    group: "Edit",
    says: "Split the clips here",
    also: "divide slice",
    keys: ["\\"],
    menu: true,
    run: ({ edit }) => {
      const { at, on } = playhead();
      edit({ kind: "split", at }, { on });
    },
  },
  {
    id: "join",
    group: "Edit",
    says: "Join split clips",
    also: "merge heal",
    keys: ["Shift+S"],
    selected: true,
    run: onSelection((s) => ({ kind: "join", ...s })),
  },
  {
    id: "restore",
    group: "Edit",
    says: "Put the nearest cut back",
    also: "undelete bring back",
    keys: ["R"],
    menu: true,
    run: withSplice((s, { edit }) => edit({ kind: "restore", cut: s.cut })),
  },
  {
    id: "restore-all",
    group: "Edit",
    says: "Put back all cuts in the selection",
    also: "undelete bring back",
    keys: ["Shift+R"],
    selected: true,
    run: onSelection((s) => ({ kind: "restore_all", ...s })),
  },
  {
    id: "uncover",
    group: "Edit",
    says: "Remove the room tone here",
    keys: ["Shift+O"],
    menu: true,
    run: ({ edit, episode }) => {
      const { at, on } = pointed();
      edit({ kind: "uncover", track: trackOf(episode), at }, { on });
    },
  },
  {
    id: "retake",
    group: "Edit",
    says: "Record again",
    also: "redo pick up new take microphone",
    keys: ["Shift+T"],
    selected: true,
    menu: true,
    run: ({ retake }) => retake(),
  },
  {
    id: "undo",
    group: "Edit",
    repeats: true,
    says: "Undo",
    also: "back revert",
    stages: "everywhere",
    keys: ["Ctrl+Z"],
    run: ({ undo }) => undo(),
  },
  {
    id: "redo",
    group: "Edit",
    repeats: true,
    says: "Redo",
    also: "forward",
    stages: "everywhere",
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
    repeats: true,
    says: "Splice: left edge 10 ms earlier",
    keys: ["Alt+Shift+ArrowLeft"],
    run: moveEdge(-TEN_MS, 0),
  },
  {
    id: "left-later",
    group: "Edit",
    repeats: true,
    says: "Splice: left edge 10 ms later",
    keys: ["Alt+Shift+ArrowRight"],
    run: moveEdge(TEN_MS, 0),
  },
  {
    id: "right-earlier",
    group: "Edit",
    repeats: true,
    says: "Splice: right edge 10 ms earlier",
    keys: ["Alt+Shift+ArrowDown"],
    run: moveEdge(0, -TEN_MS),
  },
  {
    id: "right-later",
    group: "Edit",
    repeats: true,
    says: "Splice: right edge 10 ms later",
    keys: ["Alt+Shift+ArrowUp"],
    run: moveEdge(0, TEN_MS),
  },
];

/** What is shown, and how. */
import { flushSync } from "react-dom";
import { play, playRevision, position, usePlayer } from "../playback/player";
import { announce } from "../theme/toaster";
import { useView } from "../view/view";
import type { Action } from "./action";
import { trackOf } from "./selection";

export const LOOK: Action[] = [
  {
    id: "find",
    group: "Look",
    says: "Find words",
    also: "search text",
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
    also: "zoom in",
    keys: ["+", "="],
    run: () => useView.getState().zoom(true),
  },
  {
    id: "farther",
    group: "Look",
    says: "Longer lines",
    also: "zoom out",
    keys: ["-", "−"],
    run: () => useView.getState().zoom(false),
  },
  {
    id: "show-cuts",
    group: "Look",
    says: "Show cuts in place",
    also: "deleted removed",
    keys: ["X"],
    run: () => useView.setState((v) => ({ showCuts: !v.showCuts })),
  },
  {
    id: "show-gain",
    group: "Look",
    says: "Show gain lines",
    also: "volume",
    keys: ["V"],
    run: () => useView.setState((v) => ({ showGain: !v.showGain })),
  },
  {
    id: "next-track",
    group: "Look",
    says: "Next track for single-track edits",
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
    says: "Hold: before the last edit",
    also: "compare original",
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
    says: "Show the keys",
    also: "shortcut keyboard help",
    stages: "everywhere",
    keys: ["?"],
    run: ({ show }) => show("keys"),
  },
  {
    id: "find-action",
    group: "Look",
    says: "Find an action by its name",
    stages: "everywhere",
    keys: ["Ctrl+K"],
    menu: true,
    run: ({ show }) => show("actions"),
  },
];

/** Keys of an open episode. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Episode, RATE } from "../api/client";
import { useEdit, useStep } from "../api/queries";
import { knownWords } from "../page/data";
import { useView } from "../page/view";
import { place, play, position, stop, toggle } from "../playback/player";

export const KEY_SHEET: [string, string][] = [
  ["Space", "Play, pause"],
  ["← →", "Word by word"],
  ["Shift ← →", "Extend the selection by a word"],
  ["↑ ↓", "Line by line"],
  ["Home, End", "To the start, to the end"],
  ["Enter", "Hear the selection"],
  ["Delete", "Cut the selection"],
  ["Esc", "Stop; select nothing"],
  ["Ctrl Z", "Undo"],
  ["Ctrl Shift Z", "Redo"],
  ["+ −", "Shorter, longer lines"],
  ["R", "While recording: pause, go on"],
  ["F", "While recording: flag a mistake"],
  ["?", "These keys"],
];

export function useKeys(episode: Episode | undefined, showSheet: () => void) {
  const queries = useQueryClient();
  const id = episode?.id ?? 0;
  const edit = useEdit(id);
  const undo = useStep(id, "undo");
  const redo = useStep(id, "redo");

  useEffect(() => {
    if (!episode) return;
    const press = (event: KeyboardEvent) => {
      const on = event.target as HTMLElement;
      if (on.closest("input, textarea, select, [role=dialog], [contenteditable]")) return;
      const view = useView.getState();
      const held = event.ctrlKey || event.metaKey;
      const done = () => event.preventDefault();
      if (held && event.key.toLowerCase() === "z") {
        done();
        (event.shiftKey ? redo : undo).mutate(undefined);
        return;
      }
      if (held && event.key.toLowerCase() === "y") {
        done();
        redo.mutate(undefined);
        return;
      }
      if (held || event.altKey) return;
      switch (event.key) {
        case " ":
          if (on.closest("button, a")) on.blur();
          done();
          return toggle();
        case "Delete":
        case "Backspace":
          if (!view.selection) return;
          done();
          edit.mutate(cutOf(view.selection));
          place(view.selection.start);
          return view.select(null);
        case "Enter":
          if (on.closest("button, a") || !view.selection) return;
          done();
          return play(view.selection.start, view.selection.end);
        case "Escape":
          stop();
          return view.select(null);
        case "ArrowLeft":
        case "ArrowRight":
          done();
          return byWord(event.key === "ArrowRight", event.shiftKey);
        case "ArrowUp":
          done();
          return place(position() - view.lineSeconds * RATE);
        case "ArrowDown":
          done();
          return place(position() + view.lineSeconds * RATE);
        case "Home":
          done();
          return place(0);
        case "End":
          done();
          return place(episode.frames);
        case "+":
        case "=":
          return view.zoom(true);
        case "-":
        case "−":
          return view.zoom(false);
        case "?":
          return showSheet();
      }
    };
    const byWord = (onwards: boolean, extend: boolean) => {
      const words = knownWords(queries, episode.id, episode.revision);
      const { selection, select } = useView.getState();
      const from = extend && selection ? (onwards ? selection.end : selection.start) : position();
      const word = onwards
        ? words.find((w) => w.start > from + (extend ? -1 : 0))
        : words.findLast((w) => w.start < from);
      if (!word) return;
      if (!extend) {
        select(null);
        return place(word.start);
      }
      const base = selection ?? { start: from, end: from };
      select({ start: Math.min(base.start, word.start), end: Math.max(base.end, word.end) });
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, [episode, queries, edit, undo, redo, showSheet]);
}

/** The edit that cuts a selection. */
export const cutOf = (span: { start: number; end: number }) => ({
  kind: "cut" as const,
  start: span.start,
  frames: span.end - span.start,
  crossfade_frames: 480,
});

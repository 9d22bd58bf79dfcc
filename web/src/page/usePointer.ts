/**
 * Selecting with a mouse or a finger: dragging over sound (to the frame) or words (whole words), a
 * double click for a word, a triple one for a sentence, knobs to move either edge; a click places
 * the playhead. A finger that moves scrolls; one that rests on a word selects it.
 */
import { type PointerEvent, useRef } from "react";
import { stretchAround } from "../actions/places";
import type { Episode } from "../api/client";
import { place, position, usePlayer } from "../playback/player";
import { complain } from "../theme/toaster";
import { type PointedSpan, type Span, useView } from "../view/view";

interface Here {
  span: Span;
  word: boolean;
  track: string | null;
  /** Revision that is drawn there; while another one loads, the earlier one still is. */
  revision: number | undefined;
}

/** What is under a point of the Page. */
export function under(x: number, y: number, total: number): Here | null {
  const found = document.elementFromPoint(x, y);
  const track = found?.closest<HTMLElement>("[data-track]")?.dataset.track ?? null;
  const drawn = found?.closest<HTMLElement>("[data-drawn]")?.dataset.drawn;
  const revision = drawn ? Number(drawn) : undefined;
  const word = found?.closest<HTMLElement>("[data-start]") ?? nearestIn(found, x, y);
  if (word) {
    const span = { start: Number(word.dataset.start), end: Number(word.dataset.end) };
    return { span, word: true, track, revision };
  }
  const line = found?.closest<HTMLElement>("[data-line]");
  if (!line) return null;
  const box = line.getBoundingClientRect();
  const into = Math.max(0, Math.min(1, (x - box.left) / box.width));
  const frame = Math.round(Number(line.dataset.line) + into * Number(line.dataset.frames));
  const clamped = Math.min(total, frame);
  return { span: { start: clamped, end: clamped }, word: false, track, revision };
}

/** Beside the words of a paragraph, the nearest of them is meant. */
function nearestIn(found: Element | null, x: number, y: number): HTMLElement | null {
  const paragraph = found?.closest("[data-flow]");
  let best: HTMLElement | null = null;
  let least = Number.POSITIVE_INFINITY;
  for (const word of paragraph?.querySelectorAll<HTMLElement>("[data-start]") ?? []) {
    for (const { left, right, top, bottom } of word.getClientRects()) {
      // A row above or below is farther than any place in the same row.
      const away = Math.max(left - x, x - right, 0) + 10_000 * Math.max(top - y, y - bottom, 0);
      if (away < least) [best, least] = [word, away];
    }
  }
  return best;
}

interface Drag {
  anchor: Span;
  words: boolean;
  edge: "start" | "end" | null;
  x: number;
  y: number;
  moved: boolean;
  finger: boolean;
  revision?: number | undefined;
}

type OnCarried = (span: PointedSpan, to: number, on: number) => void;

export function usePointer(episode: Episode, onCarried?: OnCarried) {
  const select = useView((v) => v.select);
  const drag = useRef<Drag | null>(null);
  const clicks = useRef({ at: 0, count: 0, x: 0, y: 0 });
  const total = episode.frames;

  const counted = (event: PointerEvent) => {
    const last = clicks.current;
    const near = Math.abs(event.clientX - last.x) + Math.abs(event.clientY - last.y) < 8;
    const count = near && event.timeStamp - last.at < 450 ? last.count + 1 : 1;
    clicks.current = { at: event.timeStamp, count, x: event.clientX, y: event.clientY };
    return count;
  };

  // What a click before the last one asked for is not wanted any more when it comes.
  const asked = useRef(0);
  const selectAround = (unit: "word" | "sentence", at: number) => {
    asked.current += 1;
    const mine = asked.current;
    void stretchAround(episode, unit, at)
      .then((span) => span && asked.current === mine && select(span, episode.revision))
      .catch(complain);
  };

  return {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      const target = event.target as Element;
      if (event.button !== 0 || target.closest("button, input, .at-handle")) return;
      const { selection, carrying } = useView.getState();
      const knob = target.closest<HTMLElement>("[data-knob]")?.dataset.knob;
      if (knob && selection) {
        drag.current = {
          anchor: selection,
          words: false,
          edge: knob === "start" ? "start" : "end",
          x: event.clientX,
          y: event.clientY,
          moved: true,
          finger: false,
        };
        event.currentTarget.setPointerCapture(event.pointerId);
        return;
      }
      const here = under(event.clientX, event.clientY, total);
      if (!here) return;
      if (here.track) useView.setState({ track: here.track });
      if (carrying && onCarried) {
        useView.setState({ carrying: null });
        onCarried(carrying, here.span.start, here.revision ?? episode.revision);
        return;
      }
      const count = counted(event);
      if (count === 3) {
        selectAround("sentence", here.span.start);
        drag.current = null;
        return;
      }
      const finger = event.pointerType === "touch";
      const caret = { start: position(), end: position() };
      drag.current = {
        anchor: event.shiftKey ? (selection ?? caret) : here.span,
        words: here.word,
        edge: null,
        x: event.clientX,
        y: event.clientY,
        moved: event.shiftKey,
        finger,
        revision: here.revision,
      };
      if (event.shiftKey) select(joined(drag.current.anchor, here.span), here.revision);
      else if (here.word) {
        // A finger may be about to scroll: what it meant is known when it is lifted.
        if (!finger) select(here.span, here.revision);
      } else if (count === 2) {
        selectAround("word", here.span.start);
      }
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const now = drag.current;
      if (!now || event.buttons !== 1 || now.finger) return;
      const far = Math.abs(event.clientX - now.x) + Math.abs(event.clientY - now.y) > 3;
      if (!far && !now.moved) return;
      now.moved = true;
      const here = under(event.clientX, event.clientY, total);
      if (!here) return;
      if (now.edge) {
        const at = now.edge === "start" ? here.span.start : here.span.end;
        const fixed = now.edge === "start" ? now.anchor.end : now.anchor.start;
        select({ start: Math.min(at, fixed), end: Math.max(at, fixed) }, here.revision);
      } else if (here.word || !now.words) {
        select(joined(now.anchor, here.span), here.revision);
      }
    },
    onPointerCancel: () => {
      drag.current = null;
    },
    onPointerUp: () => {
      const now = drag.current;
      drag.current = null;
      if (!now) return;
      if (now.moved) {
        const { selection } = useView.getState();
        if (selection && !usePlayer.getState().playing) {
          place(selection.start, selection.revision);
        }
        return;
      }
      // What was pressed counts: the Page may have been drawn again since.
      place(now.anchor.start, now.revision);
      if (now.finger && now.words) select(now.anchor, now.revision);
      else if (!now.words && clicks.current.count < 2) select(null);
    },
  };
}

const joined = (a: Span, b: Span): Span => ({
  start: Math.min(a.start, b.start),
  end: Math.max(a.end, b.end),
});

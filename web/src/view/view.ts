/** What the host has in view: selection, zoom, what is shown. One selection, over sound and words. */
import { create } from "zustand";
import type { Schemas } from "../api/client";
import { FIRST_SECONDS } from "../measures";

export const LINE_SECONDS = [2, 5, 10, 20, 40, 120] as const;

export interface Span {
  start: number;
  end: number;
}

export type Hit = Schemas["HitView"];

/** Snags of one kind, or all that are open, or those kept; only sure ones, or all. */
export interface SnagsOf {
  kind: Schemas["SnagView"]["kind"] | "all" | "kept";
  sure: boolean;
}

interface View {
  selection: Span | null;
  /** The track that what is done to one track is done to. */
  track: string | null;
  lineSeconds: number;
  /** The frame that zooming keeps in place; null: the playhead. */
  anchor: number | null;
  /** What was cut is written in its place. */
  showCuts: boolean;
  /** The gain of each track is drawn, to be taken hold of. */
  showGain: boolean;
  /** What was copied: a span of a state of an episode. */
  clipboard: (Span & { episode: number; revision: number }) | null;
  /** A span that waits to be told where it is to go. */
  carrying: Span | null;
  hits: Hit[];
  /** The cut whose splice is open. */
  splice: number | null;
  /** The state before the last edit is looked at. */
  before: boolean;
  /** The lines in view have come for the first time: there is time for what stands beside them. */
  standing: boolean;
  /** What stands beside the Page, under the selection. */
  panel: string;
  /** Those that wait to be decided, as they are shown on the Spine. */
  snags: Schemas["SnagView"][];
  /** The snag that is being decided. */
  snag: string | null;
  /** All of a kind are looked through, to be settled at once. */
  reviewing: boolean;
  /** Which snags are listed. */
  snagsOf: SnagsOf;
  select: (selection: Span | null) => void;
  zoom: (closer: boolean, anchor?: number) => void;
}

export const useView = create<View>((set) => ({
  selection: null,
  track: null,
  lineSeconds: FIRST_SECONDS,
  anchor: null,
  showCuts: false,
  showGain: false,
  clipboard: null,
  carrying: null,
  hits: [],
  splice: null,
  before: false,
  standing: false,
  panel: "Snags",
  snags: [],
  snag: null,
  reviewing: false,
  snagsOf: { kind: "all", sure: false },
  select: (selection) =>
    set({ selection: selection && selection.end > selection.start ? selection : null }),
  zoom: (closer, anchor) =>
    set(({ lineSeconds }) => {
      const index = LINE_SECONDS.indexOf(lineSeconds as (typeof LINE_SECONDS)[number]);
      const next = LINE_SECONDS[index + (closer ? -1 : 1)] ?? lineSeconds;
      return { lineSeconds: next, anchor: anchor ?? null };
    }),
}));

/** Whether a word counts as selected: its middle lies in the selection. */
export function holds(selection: Span | null, word: Span): boolean {
  if (!selection) return false;
  const middle = (word.start + word.end) / 2;
  return middle >= selection.start && middle < selection.end;
}

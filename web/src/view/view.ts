/** What the host has in view: selection, zoom, what is shown. One selection, over sound and words. */
import { create } from "zustand";
import { changes, type Mark } from "../api/changes";
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

/** A span that the host pointed at, in frames of a revision. */
export interface PointedSpan extends Span {
  revision: number;
}

interface View {
  selection: PointedSpan | null;
  /** A selection of an earlier revision than the one on the screen, until the server has said where
   * it is now. It is not drawn, but actions refer to it. */
  hidden: PointedSpan | null;
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
  carrying: PointedSpan | null;
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
  /** Select a span of the revision on the screen, or of another. */
  select: (span: Span | null, revision?: number) => void;
  zoom: (closer: boolean, anchor?: number) => void;
}

export const useView = create<View>((set) => ({
  selection: null,
  hidden: null,
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
  select: (span, revision = changes.shown(changes.episode) ?? 0) => {
    set({
      hidden: null,
      selection:
        span && span.end > span.start ? { start: span.start, end: span.end, revision } : null,
    });
    if (revision !== changes.shown(changes.episode)) changes.settle();
  },
  zoom: (closer, anchor) =>
    set(({ lineSeconds }) => {
      const index = LINE_SECONDS.indexOf(lineSeconds as (typeof LINE_SECONDS)[number]);
      const next = LINE_SECONDS[index + (closer ? -1 : 1)] ?? lineSeconds;
      return { lineSeconds: next, anchor: anchor ?? null };
    }),
}));

const markOf = ({ start, end, revision }: PointedSpan): Mark => ({
  start,
  frames: end - start,
  revision,
});

changes.hold(() => {
  const { selection, hidden } = useView.getState();
  const span = selection ?? hidden;
  if (!span) return [];
  return [
    {
      mark: markOf(span),
      hide: () => {
        if (useView.getState().selection === span)
          useView.setState({ selection: null, hidden: span });
      },
      put: (moved) => {
        const now = useView.getState();
        if ((now.selection ?? now.hidden) !== span) return; // the host selected something else
        const stays = now.selection === span && moved && moved.start === span.start;
        if (stays && moved.frames === span.end - span.start) span.revision = moved.revision;
        else
          now.select(
            moved && { start: moved.start, end: moved.start + moved.frames },
            moved?.revision,
          );
      },
    },
  ];
});

changes.hold(() => {
  const { carrying } = useView.getState();
  if (!carrying) return [];
  return [
    {
      mark: markOf(carrying),
      put: (moved) => {
        if (useView.getState().carrying !== carrying) return;
        const to = moved && {
          start: moved.start,
          end: moved.start + moved.frames,
          revision: moved.revision,
        };
        useView.setState({ carrying: to });
      },
    },
  ];
});

/** Whether a word counts as selected: its middle lies in the selection. */
export function holds(selection: Span | null, word: Span): boolean {
  if (!selection) return false;
  const middle = (word.start + word.end) / 2;
  return middle >= selection.start && middle < selection.end;
}

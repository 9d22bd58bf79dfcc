/** What the host has in view: selection and zoom. One selection, over sound and words alike. */
import { create } from "zustand";

export const LINE_SECONDS = [2, 5, 10, 20, 40, 120] as const;

export interface Span {
  start: number;
  end: number;
}

interface View {
  selection: Span | null;
  lineSeconds: number;
  select: (selection: Span | null) => void;
  zoom: (closer: boolean) => void;
}

export const useView = create<View>((set) => ({
  selection: null,
  lineSeconds: 5,
  select: (selection) =>
    set({ selection: selection && selection.end > selection.start ? selection : null }),
  zoom: (closer) =>
    set(({ lineSeconds }) => {
      const index = LINE_SECONDS.indexOf(lineSeconds as (typeof LINE_SECONDS)[number]);
      return { lineSeconds: LINE_SECONDS[index + (closer ? -1 : 1)] ?? lineSeconds };
    }),
}));

/** Whether a word counts as selected: its middle lies in the selection. */
export function holds(selection: Span | null, word: Span): boolean {
  if (!selection) return false;
  const middle = (word.start + word.end) / 2;
  return middle >= selection.start && middle < selection.end;
}

/** Where the words of a line stand: each under its own sound, none clipped, none overlapping. */
import { RATE, type Word } from "../api/client";

export const WORD_FONT = "17px 'Source Serif 4', Georgia, serif";
export const ROW_PX = 25;
const GAP_PX = 5;

/** On lines as long as these, words no longer fit under their own sound: they flow as text. */
const FLOWING_FRAMES = 20 * RATE;
export const flowing = (frames: number) => frames >= FLOWING_FRAMES;

interface Standing {
  key: string;
  text: string;
  start: number;
  end: number;
}

export type Item =
  | (Standing & { kind: "word"; word: Word })
  | (Standing & { kind: "air" })
  | (Standing & { kind: "cut"; cut: number })
  /** Who speaks from here on. */
  | (Standing & { kind: "name"; word: Word; own: string });

/** What one speaker says at a stretch, with the air in it and what was cut from it. */
export interface Turn {
  track: string;
  speaker: string;
  items: Item[];
}

export interface Placed {
  item: Item;
  x: number;
  row: number;
}

let measuring: CanvasRenderingContext2D | null = null;
const widths = new Map<string, number>();

/** Width of a text in the transcript's font, in pixels. */
export function textWidth(text: string): number {
  const known = widths.get(text);
  if (known !== undefined) return known;
  measuring ??= document.createElement("canvas").getContext("2d");
  if (!measuring) return text.length * 8;
  measuring.font = WORD_FONT;
  const width = measuring.measureText(text).width;
  if (document.fonts.check(WORD_FONT)) widths.set(text, width);
  return width;
}

const itemWidth = (item: Item) => {
  if (item.kind === "air") return textWidth(item.text) * 0.82 + 14;
  return item.kind === "name" ? textWidth(item.text) * 0.82 + 4 : textWidth(item.text);
};

/**
 * Lay out `items`, in order of time, in `width` pixels that show the frames from `start`.
 *
 * First each stands at its own time, pushed right only as far as its neighbour needs. If the last
 * would run out of the line, all are pushed back left. If there is no room for that either, they
 * flow as text in as many rows as they need, in order.
 */
export function layOut(
  items: Item[],
  start: number,
  frames: number,
  width: number,
): { placed: Placed[]; rows: number } {
  const sizes = items.map(itemWidth);
  const needed = sizes.reduce((sum, size) => sum + size + GAP_PX, 0);
  if (needed <= width) {
    const xs: number[] = [];
    let free = 0;
    items.forEach((item, i) => {
      // A name stands before the word that it is for.
      const before = item.kind === "name" ? (sizes[i] ?? 0) + GAP_PX : 0;
      const wanted = ((item.start - start) / frames) * width - before;
      xs[i] = Math.max(free, wanted);
      free = (xs[i] ?? 0) + (sizes[i] ?? 0) + GAP_PX;
    });
    let limit = width;
    for (let i = items.length - 1; i >= 0; i--) {
      xs[i] = Math.min(xs[i] ?? 0, limit - (sizes[i] ?? 0));
      limit = (xs[i] ?? 0) - GAP_PX;
    }
    const placed = items.map((item, i) => ({ item, x: Math.max(0, xs[i] ?? 0), row: 0 }));
    return { placed, rows: items.length ? 1 : 0 };
  }
  let x = 0;
  let row = 0;
  const placed = items.map((item, i) => {
    const size = sizes[i] ?? 0;
    if (x > 0 && x + size > width) {
      x = 0;
      row += 1;
    }
    const here = { item, x, row };
    x += size + GAP_PX;
    return here;
  });
  return { placed, rows: row + 1 };
}

/** A longer pause lets somebody else have the word. */
const BREAK_FRAMES = 0.8 * RATE;

/**
 * Items of one or several voices, in order of time, as turns. Who speaks while somebody else does is
 * not torn apart word by word: what is said without a pause stays together.
 */
export function turnsOf(items: Item[]): Turn[] {
  const phrases: (Turn & { end: number })[] = [];
  const open = new Map<string, Turn & { end: number }>();
  for (const item of items) {
    if (item.kind !== "word") continue;
    const { track, speaker } = item.word;
    const voice = `${track}:${speaker}`;
    const phrase = open.get(voice);
    if (phrase && item.start - phrase.end <= BREAK_FRAMES) {
      phrase.items.push(item);
      phrase.end = Math.max(phrase.end, item.end);
    } else {
      const fresh = { track, speaker, items: [item], end: item.end };
      open.set(voice, fresh);
      phrases.push(fresh);
    }
  }
  const turns: Turn[] = [];
  for (const { track, speaker, items } of phrases) {
    const last = turns.at(-1);
    if (last?.track === track && last.speaker === speaker) last.items.push(...items);
    else turns.push({ track, speaker, items });
  }
  for (const item of items) {
    if (item.kind === "word") continue;
    const turn = turns.findLast((t) => (t.items[0]?.start ?? 0) <= item.start) ?? turns[0];
    if (!turn) return [{ track: "", speaker: "", items }];
    const after = turn.items.findLastIndex((other) => other.start <= item.start);
    turn.items.splice(after + 1, 0, item);
  }
  return turns;
}

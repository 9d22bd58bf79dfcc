/** Drawing the skyline: plain functions on a canvas context. */
import type { Ink } from "../theme/colours";

/** Fit a canvas to its size on screen, sharp on dense displays; returns a context in CSS pixels. */
export function prepare(
  canvas: HTMLCanvasElement,
  width: number,
  height: number,
): CanvasRenderingContext2D | null {
  const ratio = Math.max(1, devicePixelRatio);
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  const context = canvas.getContext("2d");
  context?.scale(ratio, ratio);
  context?.clearRect(0, 0, width, height);
  return context;
}

function outline(
  context: CanvasRenderingContext2D,
  values: Uint8Array,
  width: number,
  height: number,
) {
  const step = width / values.length;
  context.beginPath();
  context.moveTo(0, height);
  values.forEach((value, i) => {
    const y = height - (value / 255) * height;
    context.lineTo(i * step, y);
    context.lineTo((i + 1) * step, y);
  });
  context.lineTo(width, height);
  context.closePath();
  context.fill();
}

/** One strip: the halo of peaks behind the body of loudness, standing on a baseline. */
export function drawSkyline(
  context: CanvasRenderingContext2D,
  peaks: Uint8Array,
  body: Uint8Array,
  width: number,
  height: number,
  ink: Ink,
) {
  context.fillStyle = ink.halo;
  outline(context, peaks, width, height - 1);
  context.fillStyle = ink.body;
  outline(context, body, width, height - 1);
  context.globalAlpha = 0.55;
  context.fillRect(0, height - 1, width, 1);
  context.globalAlpha = 1;
}

/** Where the path of a strip goes for each value, for the heights that strips have. */
const tops = new Map<number, string[]>();

function topsOf(height: number): string[] {
  let found = tops.get(height);
  if (!found) {
    found = Array.from(
      { length: 256 },
      (_, value) => `V${(height - (value / 255) * height).toFixed(1)}h`,
    );
    tops.set(height, found);
  }
  return found;
}

/**
 * A strip as a path, a unit a column: paths are painted into the page itself, where every canvas would
 * be a layer of its own, and forty of them make scrolling stutter.
 */
export function skylinePath(values: Uint8Array, height: number): string {
  const top = topsOf(height);
  const path = [`M0 ${height}`];
  for (let i = 0; i < values.length; ) {
    const value = values[i] as number;
    const start = i;
    while (values[i] === value) i++;
    path.push(top[value] as string, String(i - start));
  }
  return `${path.join("")}V${height}z`;
}

/** The wave itself, about a middle line. */
export function wavePath(low: Int8Array, high: Int8Array, height: number): string {
  const middle = height / 2;
  let path = "";
  for (let i = 0; i < low.length; i++) {
    const top = middle - loud(high[i] ?? 0) * middle;
    const bottom = Math.max(top + 0.75, middle - loud(low[i] ?? 0) * middle);
    path += `M${i} ${top.toFixed(1)}h1V${bottom.toFixed(1)}h-1z`;
  }
  return path;
}

/** Height of a sample: drawn out at the quiet end, so that breaths and edges of words are seen. */
const loud = (value: number) => Math.sign(value) * (Math.abs(value) / 127) ** 0.4;

/** The whole episode downwards: bars from the left, a column of sound for each pixel. */
export function drawSpine(
  context: CanvasRenderingContext2D,
  columns: Uint8Array,
  width: number,
  height: number,
  colourAt: (row: number) => string,
) {
  for (let row = 0; row < height; row++) {
    const value = columns[row] ?? 0;
    context.fillStyle = colourAt(row);
    context.fillRect(0, row, Math.max(1, (value / 255) * width), 1);
  }
}

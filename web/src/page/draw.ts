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

/**
 * A strip as a path, a unit a column: paths are painted into the page itself, where every canvas would
 * be a layer of its own, and forty of them make scrolling stutter.
 */
export function skylinePath(values: Uint8Array, height: number): string {
  let path = `M0 ${height}`;
  for (const value of values) path += `V${(height - (value / 255) * height).toFixed(1)}h1`;
  return `${path}V${height}z`;
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

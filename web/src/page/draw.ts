/** Drawing the skyline: paths for the lines, bars on a canvas for the Spine. */

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

/** "V<top>h" of each value, in characters' codes, for the heights that strips have. */
const tops = new Map<number, Uint8Array[]>();

function topsOf(height: number): Uint8Array[] {
  let found = tops.get(height);
  if (!found) {
    const codes = new TextEncoder();
    const known = new Map<string, Uint8Array>();
    found = Array.from({ length: 256 }, (_, value) => {
      // To half a pixel: more is not seen, and less has fewer steps.
      const text = `V${Math.round(2 * height * (1 - value / 255)) / 2}h`;
      const step = known.get(text) ?? codes.encode(text);
      known.set(text, step);
      return step;
    });
    tops.set(height, found);
  }
  return found;
}

/** What paths are written in, over and over: a line has eight, each of thousands of characters. */
let written = new Uint8Array(0);
const MOST_A_STEP = 12;
const ZERO = 48;
const decoder = new TextDecoder("latin1");

/**
 * A strip as a path, a unit a column: paths are painted into the page itself, where every canvas would
 * be a layer of its own, and forty of them make scrolling stutter.
 */
export function skylinePath(values: Uint8Array, height: number): string {
  const top = topsOf(height);
  const most = values.length * MOST_A_STEP;
  if (written.length < most) written = new Uint8Array(most);
  let end = 0;
  for (let i = 0; i < values.length; ) {
    const step = top[values[i] as number] as Uint8Array;
    const start = i;
    while (i < values.length && top[values[i] as number] === step) i++;
    written.set(step, end);
    end += step.length;
    const run = i - start;
    for (let ten = 10 ** Math.floor(Math.log10(run)); ten >= 1; ten /= 10) {
      written[end++] = ZERO + (Math.floor(run / ten) % 10);
    }
  }
  return `M0 ${height}${decoder.decode(written.subarray(0, end))}V${height}z`;
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

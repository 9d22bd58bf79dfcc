/** Where things lie on a line. */

export const STRIP_PX = 46;

/** A line's first frame, how many it has, and its width in pixels. */
export interface LineSpan {
  start: number;
  frames: number;
  width: number;
}

/** Where a span lies on a line, in pixels, held within it; never too narrow to be seen. */
export function within(
  span: { start: number; frames: number },
  { start, frames, width }: LineSpan,
) {
  const left = Math.max(0, ((span.start - start) / frames) * width);
  const right = Math.min(width, ((span.start + span.frames - start) / frames) * width);
  return { left, width: Math.max(2, right - left) };
}

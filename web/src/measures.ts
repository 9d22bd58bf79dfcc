/** Numbers that the interface shares, and what follows from them: how wide a line of the Page is, and
 * how much of it is asked for at once. */

export const RATE = 48_000;

/** A minute, in frames. */
export const LONGEST_FADE = 60 * RATE;

/** The length of a line when an episode is opened. */
export const FIRST_SECONDS = 5;

export const GUTTER_PX = 56;
export const SPINE_PX = 72;
export const PANEL_PX = 320;
const RIGHT_PX = 44;

/** How wide a line is on a Page of this width. */
export const lineWidth = (page: number) => Math.max(200, page - GUTTER_PX - RIGHT_PX);

/** Columns of a skyline on a line: sharp on dense displays. */
export const columnsOf = (width: number) =>
  width * Math.min(2, Math.max(1, Math.ceil(devicePixelRatio)));

const STRETCH_S = 60;
const CLOSE_STRETCH_S = 20;

/** How many lines are asked for at once. */
export const linesAStretch = (lineSeconds: number) =>
  Math.max(1, Math.round((lineSeconds <= 5 ? CLOSE_STRETCH_S : STRETCH_S) / lineSeconds));

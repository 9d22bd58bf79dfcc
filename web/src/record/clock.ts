/**
 * The server's clock, as seen from this browser. A question and its answer tell what it said in the
 * middle between them; the quickest of the last ones errs least (common practice, as in NTP).
 */

interface Asked {
  offset: number;
  tripS: number;
  at: number;
}

const KEPT = 24;
const EVERY_MS = 5000;
const FIRST = 6;

let asked: Asked[] = [];
let timer = 0;

async function ask() {
  const before = performance.now();
  const answer = await fetch("/api/clock").catch(() => null);
  if (!answer?.ok) return;
  const after = performance.now();
  const { at_s } = (await answer.json()) as { at_s: number };
  const middle = (before + after) / 2000;
  asked = [
    ...asked.slice(1 - KEPT),
    { offset: at_s - middle, tripS: (after - before) / 1000, at: after },
  ];
}

/** Keep asking while microphones are on. */
export async function followClock() {
  if (timer) return;
  timer = window.setInterval(() => void ask(), EVERY_MS);
  for (let i = 0; i < FIRST; i++) await ask();
}

export function leaveClock() {
  clearInterval(timer);
  timer = 0;
}

/** Seconds of the server's clock at a moment of `performance.now()`, in seconds; null if unknown. */
export function serverTime(moment: number): number | null {
  const best = asked.reduce<Asked | null>((a, b) => (a && a.tripS <= b.tripS ? a : b), null);
  return best ? moment + best.offset : null;
}

/** Two and a half seconds of messages. */
const LAGS = 15;
let lags: number[] = [];

/** A message from the audio thread, sent at `time` of its context, has just come. */
export function noteLag(time: number) {
  lags.push(performance.now() / 1000 - time);
  if (lags.length > LAGS) lags.shift();
}

export function forgetLags() {
  lags = [];
}

/**
 * When a moment of the context was, by the server's clock. Messages come late by now more, now less;
 * the promptest of the last two seconds tells best.
 */
export function heardAt(time: number): number | null {
  return lags.length ? serverTime(time + Math.min(...lags)) : null;
}

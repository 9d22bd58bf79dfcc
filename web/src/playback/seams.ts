/** Hearing only where parts meet: the last seconds of one and the first of the next, one seam after
 * another through the whole episode. */
import { RATE } from "../api/client";
import { play, usePlayer } from "./player";

const BESIDE = 3 * RATE;

/** Play around each seam between parts, in order. */
export const playSeams = (places: readonly number[], frames: number) =>
  playAcross(places, frames, BESIDE);

/** Play so much on either side of each place, in order. What stops it, or goes elsewhere, ends it. */
export function playAcross(places: readonly number[], frames: number, beside: number) {
  const next = (index: number) => {
    const place = places[index];
    if (place === undefined) return;
    const until = Math.min(frames, place + beside);
    play(Math.max(0, place - beside), until);
    const leave = usePlayer.subscribe(({ playing, at }) => {
      if (playing) return;
      leave();
      if (at === until) next(index + 1);
    });
  };
  next(0);
}

/** Hearing only where parts meet: the last seconds of one and the first of the next, one seam after
 * another through the whole episode. */
import { RATE } from "../api/client";
import { play, usePlayer } from "./player";

const BESIDE = 3 * RATE;

/** Play around each of some places, in order. What stops it, or goes elsewhere, ends it. */
export function playSeams(places: readonly number[], frames: number) {
  const next = (index: number) => {
    const place = places[index];
    if (place === undefined) return;
    const until = Math.min(frames, place + BESIDE);
    play(Math.max(0, place - BESIDE), until);
    const leave = usePlayer.subscribe(({ playing, at }) => {
      if (playing) return;
      leave();
      if (at === until) next(index + 1);
    });
  };
  next(0);
}

/** Where something that is moved comes to rest: at the playhead, at an end of a clip, at a word. */
import type { Clip, PageData } from "../api/client";
import { position } from "../playback/player";

/** `frame`, or the place of note nearest to it within `reach` frames. */
export function snapped(frame: number, reach: number, page: PageData, except: Clip): number {
  const places = [0, position()];
  for (const clip of page.clips) {
    if (clip.track === except.track && clip.start === except.start) continue;
    places.push(clip.start, clip.start + clip.frames);
  }
  for (const word of page.words) {
    if (word.take !== except.take) places.push(word.start, word.end);
  }
  const best = places.reduce(
    (near, place) => (Math.abs(place - frame) < Math.abs(near - frame) ? place : near),
    Number.POSITIVE_INFINITY,
  );
  return Math.abs(best - frame) <= reach ? best : frame;
}

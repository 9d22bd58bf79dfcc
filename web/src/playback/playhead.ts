/** Following the playhead: one loop for all that follow, which stands still when the sound does. */
import { useEffect } from "react";
import { position, usePlayer } from "./player";

type Follow = (at: number) => void;

const followers = new Set<Follow>();
let request = 0;

function tell() {
  const at = position();
  for (const follow of followers) follow(at);
  request = usePlayer.getState().playing ? requestAnimationFrame(tell) : 0;
}

usePlayer.subscribe(() => {
  if (!request) tell();
});

/** Call `follow` with where the playhead is: now, and in every picture in which it moves. */
export function followPlayhead(follow: Follow): () => void {
  followers.add(follow);
  follow(position());
  return () => void followers.delete(follow);
}

/** The same for a component, which may follow otherwise each time it is drawn. */
export function usePlayhead(follow: Follow) {
  useEffect(() => followPlayhead(follow));
}

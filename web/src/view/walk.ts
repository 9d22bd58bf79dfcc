/** Five steps for whoever begins: from hearing an episode to a finished file, done on it. */
import { create } from "zustand";
import { createJSONStorage, persist } from "zustand/middleware";
import type { Episode, Schemas } from "../api/client";

export interface WalkStep {
  name: string;
  /** Where it is done: the path of a stage. */
  stage: string;
  says: string;
}

export const WALK: readonly WalkStep[] = [
  {
    name: "Hear",
    stage: "edit",
    says: "Press Space, or the round button below, and listen. A press on any word goes there.",
  },
  {
    name: "Cut",
    stage: "edit",
    says: "Drag over words you can do without, and press Delete. Undo, at the top, brings them back.",
  },
  {
    name: "Tidy",
    stage: "edit",
    says: "At the right stands what was found: fillers, repeats, long air. “Tidy gently” settles what is clear.",
  },
  {
    name: "Even out",
    stage: "loudness",
    says: "Parts were recorded at different loudness. “Even out all sections” brings each to the target.",
  },
  {
    name: "Release",
    stage: "release",
    says: "“Make the file” writes it, reads it back and measures it. Then it can be downloaded.",
  },
];

interface WalkState {
  /** The episode that it is done on; null while nobody walks. */
  episode: number | null;
  /** The step that is to be done; as many as there are once all are. */
  step: number;
  /** Frames that had been trimmed when the step began, to see a cut. */
  trimmed: number;
  /** It was gone to its end, or is not wanted. */
  over: boolean;
}

export const useWalk = create<WalkState>()(
  persist<WalkState>(() => ({ episode: null, step: 0, trimmed: 0, over: false }), {
    name: "airtrim-walk",
    storage: createJSONStorage(() => localStorage),
  }),
);

/** Begin, or go on where it was left on this episode. */
export function walk(episode: number) {
  const { episode: before, step } = useWalk.getState();
  const goesOn = before === episode && step < WALK.length;
  useWalk.setState({ episode, step: goesOn ? step : 0, over: false });
}

export const leaveWalk = () => useWalk.setState({ over: true });

/** Whether what a step asks for has been done. */
export function isDone(
  step: number,
  episode: Episode,
  playing: boolean,
  standing: readonly Schemas["Step"][],
): boolean {
  const stands = (name: Schemas["Step"]["name"]) =>
    standing.some((one) => one.name === name && one.done);
  switch (step) {
    case 0:
      return playing;
    case 1:
      return episode.trimmed > useWalk.getState().trimmed;
    case 2:
      return stands("snags") || /^(Tidied|Settled)/.test(episode.undo ?? "");
    case 3:
      return stands("even");
    default:
      return stands("file");
  }
}

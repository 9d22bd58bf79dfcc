/** Keys while recording. What they do is the stage's own. */
import type { Action } from "./action";
import { provided } from "./provided";

const here = { group: "Record", stages: ["record"] } as const;

/** Keys that play sounds of the shelf in. */
export const AT_HAND = ["1", "2", "3", "4", "5", "6", "7", "8", "9"] as const;

export const RECORD: Action[] = [
  { ...here, id: "record-pause", says: "Pause, go on", keys: ["R"], run: provided("record-pause") },
  { ...here, id: "record-flag", says: "Flag a mistake", keys: ["F"], run: provided("record-flag") },
  {
    ...here,
    id: "script-on",
    says: "Next paragraph of the script",
    keys: ["ArrowDown"],
    run: provided("script-on"),
  },
  {
    ...here,
    id: "script-back",
    says: "Previous paragraph of the script",
    keys: ["ArrowUp"],
    run: provided("script-back"),
  },
  ...AT_HAND.map(
    (key): Action => ({
      ...here,
      id: `sound-${key}`,
      says: `Sound ${key} in, or its end`,
      keys: [key],
      run: provided(`sound-${key}`),
    }),
  ),
];

/** Keys for listening on Sound. What they do is the stage's own. */
import type { Action } from "./action";
import { provided } from "./provided";

const here = { group: "Sound", stages: ["sound"] } as const;

export const SOUND: Action[] = [
  { ...here, id: "sound-loop", says: "Loop the voice", keys: ["L"], run: provided("sound-loop") },
  {
    ...here,
    id: "sound-untouched",
    says: "Hear the original, as loud",
    keys: ["U"],
    run: provided("sound-untouched"),
  },
  {
    ...here,
    id: "sound-taken-out",
    says: "Hear only what is taken out: echo and noise",
    keys: ["O"],
    run: provided("sound-taken-out"),
  },
  {
    ...here,
    id: "sound-second",
    says: "Switch between two settings",
    keys: ["B"],
    run: provided("sound-second"),
  },
];

/** Keys while recording. What they do is the stage's own. */
import type { Action } from "./action";
import { provided } from "./provided";

const here = { group: "Record", stages: ["record"] } as const;

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
];

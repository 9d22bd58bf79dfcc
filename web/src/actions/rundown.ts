/** Keys of the running order. What they do is the stage's own. */
import type { Action } from "./action";
import { provided } from "./provided";

const action = (id: string, says: string, ...keys: string[]): Action => ({
  group: "Rundown",
  stages: ["rundown"],
  id,
  says,
  keys,
  run: provided(id),
});

export const RUNDOWN: Action[] = [
  action("part-on", "Next part", "ArrowDown"),
  action("part-back", "Previous part", "ArrowUp"),
  action("part-play", "Play the part", "Enter"),
  action("part-up", "Move the part up", "Alt+ArrowUp"),
  action("part-down", "Move the part down", "Alt+ArrowDown"),
  action("part-double", "Duplicate the part", "Ctrl+D"),
  action("part-aside", "Put the part aside", "Delete"),
  action("part-here", "Begin a part at the playhead", "\\"),
  action("part-note", "Note a place to part at", "K"),
  action("seams", "Hear the seams", "J"),
];

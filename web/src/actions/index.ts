/**
 * All that can be done with a key, each with its name: keys, menus, the sheet of keys and buttons
 * are made from this one table.
 */
import type { Action } from "./action";
import { EDIT } from "./edit";
import { GAIN } from "./gain";
import { GO } from "./go";
import { LOOK } from "./look";
import { MARK } from "./mark";
import { PLAY } from "./play";
import { RECORD } from "./record";
import { RUNDOWN } from "./rundown";
import { SELECT } from "./select";
import { SHELF } from "./shelf";
import { SNAGS } from "./snags";
import { SOUND } from "./sound";

export const ACTIONS: readonly Action[] = [
  ...PLAY,
  ...GO,
  ...SELECT,
  ...EDIT,
  ...SHELF,
  ...SNAGS,
  ...GAIN,
  ...MARK,
  ...LOOK,
  ...RECORD,
  ...SOUND,
  ...RUNDOWN,
];

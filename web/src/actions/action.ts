/** What an action is: what keys, menus, the sheet of keys and buttons are made from. */
import type { QueryClient } from "@tanstack/react-query";
import type { Decision, Edit, Episode } from "../api/client";
import type { How } from "../api/queries";
import { complain } from "../theme/toaster";

/** What actions need of an open episode. */
export interface Context {
  episode: Episode;
  queries: QueryClient;
  /** Make an edit. `on` is the revision of its frames, if that is not the one on the screen. */
  edit: (edit: Edit, how?: How) => void;
  /** Settle snags; done when the episode has come back changed. */
  decide: (decisions: Decision[]) => Promise<Episode>;
  undo: () => void;
  redo: () => void;
  /** A sheet over the stage: all keys, or all actions to be found by name. */
  show: (sheet: "keys" | "actions") => void;
  retake: () => void;
}

export const GROUPS = [
  "Play",
  "Go",
  "Select",
  "Edit",
  "Snags",
  "Gain",
  "Mark",
  "Look",
  "Record",
  "Sound",
  "Rundown",
] as const;

export interface Action {
  id: string;
  group: (typeof GROUPS)[number];
  says: string;
  /** Other words by which somebody may look for it. */
  also?: string;
  /** The stages whose keys it is among, by their paths: that of the Page where none are named. */
  stages?: readonly string[] | "everywhere";
  keys: string[];
  /** It acts on the selection, and stands in the menu only with one. */
  selected?: boolean;
  /** It stands in the menu of the Page. */
  menu?: boolean;
  /** Holding its key down repeats it. Only what moves or steps does so; an edit is made once. */
  repeats?: boolean;
  /** It lasts while its key is held down. */
  release?: (context: Context) => void;
  run: (context: Context) => void | Promise<void>;
}

/** Do it; what goes wrong is told. */
export function perform(action: Action, context: Context) {
  void Promise.resolve(action.run(context)).catch(complain);
}

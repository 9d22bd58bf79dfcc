/** Snags: going to them, hearing them, settling them. */

import type { Action } from "./action";
import { chooseOption, goToSnag, hearSnag } from "./deciding";

export const SNAGS: Action[] = [
  {
    id: "snag-on",
    group: "Snags",
    says: "Next snag",
    also: "mistake slip fault",
    keys: ["Z"],
    run: goToSnag(false),
  },
  {
    id: "snag-back",
    group: "Snags",
    says: "Previous snag",
    also: "mistake slip fault",
    keys: ["Shift+Z"],
    run: goToSnag(true),
  },
  {
    id: "snag-hear",
    group: "Snags",
    says: "Hear the result",
    keys: ["H"],
    run: hearSnag(true),
  },
  {
    id: "snag-as-is",
    group: "Snags",
    says: "Hear the original",
    keys: ["Shift+H"],
    run: hearSnag(false),
  },
  {
    id: "snag-1",
    group: "Snags",
    says: "Do what is proposed",
    also: "accept yes",
    keys: ["1"],
    run: chooseOption(0),
  },
  {
    id: "snag-2",
    group: "Snags",
    says: "Do the second option, or keep that attempt",
    keys: ["2"],
    run: chooseOption(1),
  },
  {
    id: "snag-3",
    group: "Snags",
    says: "Do the third option",
    keys: ["3"],
    run: chooseOption(2),
  },
  {
    id: "snag-keep",
    group: "Snags",
    says: "Keep as it is",
    also: "ignore leave no",
    keys: ["0"],
    run: chooseOption("keep"),
  },
];

/** Marking moments, sections, room tone. */
import type { Action, Context } from "./action";
import { withSection } from "./sections";
import { onSelection, playhead, pointed } from "./selection";

function addSection({ episode, edit }: Context) {
  const { at, on } = pointed();
  if (episode.sections.some((s) => s.at === at)) return;
  edit(withSection(episode.sections, at, "New section"), { on });
}

export const MARK: Action[] = [
  {
    id: "marker",
    group: "Mark",
    says: "Set a marker here",
    also: "flag bookmark note",
    keys: ["M"],
    menu: true,
    run: ({ edit }) => {
      const { at, on } = playhead();
      edit({ kind: "add_marker", at }, { on });
    },
  },
  {
    id: "section",
    group: "Mark",
    says: "Start a section here",
    also: "part chapter",
    keys: ["Shift+M"],
    menu: true,
    run: addSection,
  },
  {
    id: "room-tone",
    group: "Mark",
    says: "Use as room tone",
    also: "noise silence background",
    keys: ["Shift+B"],
    selected: true,
    run: onSelection((s) => ({ kind: "choose_room_tone", ...s })),
  },
];

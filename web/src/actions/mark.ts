/** Marking moments, sections, room tone. */
import { position } from "../playback/player";
import type { Action, Context } from "./action";
import { withSection } from "./sections";
import { onSelection, selection } from "./selection";

function addSection({ episode, edit }: Pick<Context, "episode" | "edit">, at: number) {
  if (episode.sections.some((s) => s.at === at)) return;
  edit(withSection(episode.sections, at, "New section"));
}

export const MARK: Action[] = [
  {
    id: "marker",
    group: "Mark",
    says: "Set a marker here",
    also: "flag bookmark note",
    keys: ["M"],
    menu: true,
    run: ({ edit }) => edit({ kind: "add_marker", at: position() }),
  },
  {
    id: "section",
    group: "Mark",
    says: "Start a section here",
    also: "part chapter",
    keys: ["Shift+M"],
    menu: true,
    run: (c) => addSection(c, selection()?.start ?? position()),
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

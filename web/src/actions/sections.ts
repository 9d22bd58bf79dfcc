/** Edits of where sections begin and what they are called, made from those that are there. */
import type { Edit, Episode } from "../api/client";

type Sections = Episode["sections"];

const set = (sections: { id?: string; at: number; name: string }[]): Edit => ({
  kind: "set_sections",
  sections: sections.map(({ id, at, name }) => (id ? { id, at, name } : { at, name })),
});

export const withSection = (sections: Sections, at: number, name: string): Edit =>
  set([...sections, { at, name }]);

export const withoutSection = (sections: Sections, id: string): Edit =>
  set(sections.filter((section) => section.id !== id));

export const changedSection = (
  sections: Sections,
  id: string,
  to: { at?: number; name?: string },
): Edit => set(sections.map((section) => (section.id === id ? { ...section, ...to } : section)));

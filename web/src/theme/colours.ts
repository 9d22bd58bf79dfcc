/** The colours that are drawn on canvas, by mode and by track. */
import type { Mode } from "./mode";

export interface Ink {
  body: string;
  halo: string;
  text: string;
}

const INKS: Record<
  Mode,
  { voices: Ink[]; music: Ink; rule: string; apricot: string; quiet: string }
> = {
  light: {
    voices: [
      { body: "#1F5E54", halo: "#AAC3BB", text: "#1D2526" },
      { body: "#5A5387", halo: "#C4C0D4", text: "#4C4577" },
    ],
    music: { body: "#A9781F", halo: "#E0CFA8", text: "#7A5512" },
    rule: "#DDD6C8",
    apricot: "#E07A3F",
    quiet: "#5C625F",
  },
  dark: {
    voices: [
      { body: "#6DBBAC", halo: "#2F5750", text: "#E9E5DB" },
      { body: "#A9A1DB", halo: "#4B4770", text: "#C6C0EC" },
    ],
    music: { body: "#D9A94F", halo: "#5F4D27", text: "#E3C07C" },
    rule: "#343D3E",
    apricot: "#F0965F",
    quiet: "#A5ACA8",
  },
};

export const palette = (mode: Mode) => INKS[mode];

/** The ink of a track, told by its kind and its place among the voices. */
export function inkOf(tracks: { id: string; kind: string }[], id: string, mode: Mode): Ink {
  const set = INKS[mode];
  const track = tracks.find((t) => t.id === id);
  if (track?.kind === "music") return set.music;
  const voices = tracks.filter((t) => t.kind === "voice");
  const place = Math.max(
    0,
    voices.findIndex((t) => t.id === id),
  );
  return set.voices[place % set.voices.length] ?? set.music;
}

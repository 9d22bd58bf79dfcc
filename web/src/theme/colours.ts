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

/** Inks that a host can give a track. */
export const COLOURS = ["pine", "violet", "ochre", "slate", "rose", "moss"] as const;
export type Colour = (typeof COLOURS)[number];

const MORE: Record<Mode, Record<"slate" | "rose" | "moss", Ink>> = {
  light: {
    slate: { body: "#3E5C76", halo: "#B9C6D2", text: "#33506A" },
    rose: { body: "#9A4B62", halo: "#DDBEC8", text: "#85394F" },
    moss: { body: "#5F6B2C", halo: "#CBD0AF", text: "#4C571F" },
  },
  dark: {
    slate: { body: "#8FB3D1", halo: "#3A5065", text: "#B7D0E4" },
    rose: { body: "#E09AB0", halo: "#63394A", text: "#EDBCCB" },
    moss: { body: "#B3BF77", halo: "#4B5330", text: "#CFD8A2" },
  },
};

function inkNamed(colour: Colour, mode: Mode): Ink {
  const set = INKS[mode];
  if (colour === "ochre") return set.music;
  if (colour === "pine" || colour === "violet") {
    return set.voices[colour === "pine" ? 0 : 1] ?? set.music;
  }
  return MORE[mode][colour];
}

/** The colour of a track's sound by name. */
export const swatch = (colour: Colour, mode: Mode) => inkNamed(colour, mode).body;

export const palette = (mode: Mode) => INKS[mode];

/** The ink of a track, the one it was given, or told by its kind and its place among the voices. */
export function inkOf(
  tracks: { id: string; kind: string; colour: Colour | null }[],
  id: string,
  mode: Mode,
): Ink {
  const set = INKS[mode];
  const track = tracks.find((t) => t.id === id);
  if (track?.colour) return inkNamed(track.colour, mode);
  if (track?.kind === "music") return set.music;
  const voices = tracks.filter((t) => t.kind === "voice");
  const place = Math.max(
    0,
    voices.findIndex((t) => t.id === id),
  );
  return set.voices[place % set.voices.length] ?? set.music;
}

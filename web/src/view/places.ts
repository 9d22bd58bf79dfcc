/** Where things are done, what stands for each in an address, and how an error leads there. */
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { type Place, Problem } from "../api/client";
import { mendWith } from "../theme/toaster";
import { useView } from "./view";

/** In the shelf's address: disk space is to be shown. */
export const SPACE = "space";

/** Where errors lead, and the one place that none leads to. */
export type Anywhere = Place | "check";

/** What leads to each; `at` is its address in an episode, or a whole one; `also` are other words by
 * which somebody may look for it. */
export const PLACES: Record<Anywhere, { says: string; at: string; also: string }> = {
  record: { says: "Go to Record", at: "record", also: "microphone script guest import add sound" },
  edit: { says: "Go to Edit", at: "edit", also: "page words text transcript" },
  snags: { says: "Go through the snags", at: "edit", also: "tidy mistakes fillers um repeats air" },
  sound: { says: "Go to Sound", at: "sound", also: "noise hum echo tone compressor clean" },
  rundown: { says: "Go to Rundown", at: "rundown", also: "parts order music jingle length" },
  loudness: { says: "Go to Loudness", at: "loudness", also: "volume level even out LUFS" },
  label: {
    says: "Go to Label",
    at: "release?step=label",
    also: "tags name title number artwork cover chapters rename",
  },
  check: { says: "Go to Check", at: "release?step=check", also: "ready problems faults" },
  files: {
    says: "Go to Files",
    at: "release?step=files",
    also: "export save download MP3 WAV FLAC transcript subtitles",
  },
  over: { says: "Go to Hand over", at: "release?step=over", also: "publish upload release send" },
  space: { says: "See disk space", at: `/?${SPACE}`, also: "clear room delete" },
};

const isWhole = (place: Anywhere) => PLACES[place].at.startsWith("/");

export const addressOf = (place: Anywhere, episode: number | string) =>
  isWhole(place) ? PLACES[place].at : `/episodes/${episode}/${PLACES[place].at}`;

/** Have shown what is meant at a place. */
export function arrive(place: Anywhere) {
  if (place === "snags") useView.setState({ panel: "Snags" });
}

/** Goes to a place of an episode. */
export function useGoTo() {
  const navigate = useNavigate();
  return (place: Anywhere, episode: number | string) => {
    arrive(place);
    navigate(addressOf(place, episode));
  };
}

/** Lets each error that is told of offer what would put it right. */
export function useMends() {
  const goTo = useGoTo();
  useEffect(() =>
    mendWith((error) => {
      if (!(error instanceof Problem)) return null;
      const { place, episode: its } = error.known;
      const { pathname, search } = window.location;
      const episode = its ?? pathname.match(/^\/episodes\/(\d+)/)?.[1] ?? "";
      if (!place || !(episode || isWhole(place))) return null;
      if (addressOf(place, episode) === pathname + search) return null;
      return { says: PLACES[place].says, go: () => goTo(place, episode) };
    }),
  );
}

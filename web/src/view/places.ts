/** Where things are put right, what stands for each in an address, and how an error leads there. */
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { type Place, Problem } from "../api/client";
import { mendWith } from "../theme/toaster";
import { useView } from "./view";

/** In the shelf's address: disk space is to be shown. */
export const SPACE = "space";

/** What leads to each; `at` is its address in an episode, or a whole one. */
const PLACES: Record<Place, { says: string; at: string }> = {
  record: { says: "Go to Record", at: "record" },
  edit: { says: "Go to Edit", at: "edit" },
  snags: { says: "Go through them", at: "edit" },
  sound: { says: "Go to Sound", at: "sound" },
  rundown: { says: "Go to Rundown", at: "rundown" },
  loudness: { says: "Go to Loudness", at: "loudness" },
  label: { says: "Go to Label", at: "release?step=label" },
  files: { says: "Go to Files", at: "release?step=files" },
  over: { says: "Go to Hand over", at: "release?step=over" },
  space: { says: "See disk space", at: `/?${SPACE}` },
};

const isWhole = (place: Place) => PLACES[place].at.startsWith("/");

export const addressOf = (place: Place, episode: number | string) =>
  isWhole(place) ? PLACES[place].at : `/episodes/${episode}/${PLACES[place].at}`;

/** Have shown what is meant at a place. */
export function arrive(place: Place) {
  if (place === "snags") useView.setState({ panel: "Snags" });
}

/** Goes to a place of an episode. */
export function useGoTo() {
  const navigate = useNavigate();
  return (place: Place, episode: number | string) => {
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

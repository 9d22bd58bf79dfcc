/** Where a recording will go, kept while the host goes from stage to stage. */
import { create } from "zustand";
import type { Landing } from "../api/client";
import { positionRevision, usePlayer } from "../playback/player";
import { type PointedSpan, useView } from "../view/view";

export type Way = "after" | "here" | "over" | "beside";

/** How a recording will land; kept while the host goes from stage to stage. */
const useWay = create<{ way: Way }>(() => ({ way: "after" }));

/** The next recording goes over what is selected. */
export const landOverSelection = () => useWay.setState({ way: "over" });

export const chooseWay = (way: Way) => useWay.setState({ way });

/** Where a recording would go now. */
export function useLanding(): { way: Way; landing: Landing } {
  const at = usePlayer((p) => p.at);
  const on = positionRevision();
  const selection = useView((v) => v.selection);
  const { way: wanted } = useWay();
  const way = wanted === "over" && !selection ? "after" : wanted;
  return { way, landing: landingOf(way, at, on, selection) };
}

function landingOf(way: Way, at: number, on: number, selection: PointedSpan | null): Landing {
  const span = way === "over" ? selection : null;
  return {
    at: way === "after" ? null : (span?.start ?? at),
    replacing: span ? span.end - span.start : 0,
    alongside: way === "beside",
    skip: 0,
    revision: span?.revision ?? on,
  };
}

/** The one table of stages: path, name, and what is shown there. */
import { type ComponentType, lazy } from "react";
import type { Context } from "../actions/action";
import { EditStage } from "./edit/EditStage";
import { NotLoaded } from "./NotLoaded";

type Shown = ComponentType<{ context: Context }>;

export interface Stage {
  path: string;
  name: string;
  Shown: Shown;
  /** Fetches it; the Page is there from the beginning. */
  load?: () => Promise<unknown>;
  /** It is what the Page is on: what frames it may follow a moment later. */
  page?: boolean;
}

/** A stage that is loaded when it is first gone to, or once the Page stands. */
function later(path: string, name: string, load: () => Promise<Shown>): Stage {
  const shown = () =>
    load()
      .catch((): Shown => NotLoaded)
      .then((found) => ({ default: found }));
  return { path, name, load, Shown: lazy(shown) };
}

export const PAGE: Stage = { path: "edit", name: "Edit", Shown: EditStage, page: true };

export const STAGES: readonly Stage[] = [
  later("record", "Record", () => import("./record/RecordStage").then((m) => m.RecordStage)),
  PAGE,
  later("sound", "Sound", () => import("./sound/SoundStage").then((m) => m.SoundStage)),
  later("rundown", "Rundown", () => import("./rundown/RundownStage").then((m) => m.RundownStage)),
  later("loudness", "Loudness", () =>
    import("./loudness/LoudnessStage").then((m) => m.LoudnessStage),
  ),
  later("release", "Release", () => import("./release/ReleaseStage").then((m) => m.ReleaseStage)),
];

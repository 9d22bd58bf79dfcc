/** Going from snag to snag, hearing each as it would be, and deciding about it: by key and button. */

import type { Decision, Snag, Snags } from "../api/client";
import { snagsOf } from "../api/queries";
import { place, play, playSettled, position } from "../playback/player";
import { announce } from "../theme/toaster";
import { type SnagsOf, useView } from "../view/view";
import type { Context } from "./action";
import { AROUND } from "./places";

/** From this confidence on a snag counts as sure. */
const SURE = 0.7;

export type Kinds = Snags["kinds"];

/** What a snag is called. */
export function nameOf(snag: Snag, kinds: Kinds): string {
  const one = kinds.find(({ kind }) => kind === snag.kind)?.one ?? snag.kind;
  return `${one.charAt(0).toUpperCase()}${one.slice(1)}`;
}

const DOES: Record<Decision["do"], string> = {
  cut: "Cut",
  trim: "Trim",
  cover: "Cover",
  level: "Bring to level",
  restore: "Put the cut back",
  keep: "Keep",
};

/** One way to settle a snag. */
export interface Option {
  says: string;
  decision: Decision;
}

const NUMBERS = ["first", "second", "third", "fourth", "fifth"];

/** All ways to settle a snag: what is proposed first, keeping it last. */
export function optionsOf(snag: Snag): Option[] {
  const of = (says: string, what: Decision["do"], attempt = -1): Option => ({
    says,
    decision: { id: snag.id, do: what, attempt },
  });
  const ways = snag.choices.filter((one) => one !== "keep");
  const options =
    snag.kind === "repeat" && ways.length
      ? [
          of("Keep the last", "cut"),
          ...snag.attempts
            .slice(0, -1)
            .map((_, i) => of(`Keep the ${NUMBERS[i] ?? `${i + 1}th`}`, "cut", i)),
        ]
      : ways.map((one) => of(DOES[one], one));
  return [...options, of(snag.kind === "repeat" ? "Keep all" : "Keep", "keep")];
}

/** The snags that are listed. */
export function listed(snags: Snag[], { kind, sure }: SnagsOf): Snag[] {
  return snags.filter(
    (snag) =>
      snag.kept === (kind === "kept") &&
      (kind === "all" || kind === "kept" || snag.kind === kind) &&
      (!sure || snag.confidence >= SURE),
  );
}

/** Show a snag: the playhead at it, its span selected, its ways to be settled in the panel. */
export function show(snag: Snag) {
  place(snag.start);
  useView.getState().select({ start: snag.start, end: snag.start + snag.frames });
  useView.setState({ snag: snag.id, panel: "Snags", track: snag.track });
}

async function known({ queries, episode }: Context): Promise<Snag[]> {
  const { snags } = await queries.fetchQuery({
    ...snagsOf(episode.id, episode.revision),
    staleTime: Number.POSITIVE_INFINITY,
  });
  return snags;
}

function following(snags: Snag[], at: number, back: boolean): Snag | undefined {
  return back ? snags.findLast((s) => s.start < at) : snags.find((s) => s.start > at);
}

export const goToSnag = (back: boolean) => async (context: Context) => {
  const all = await known(context);
  const open = listed(all, useView.getState().snagsOf);
  const current = all.find((s) => s.id === useView.getState().snag);
  const here = position();
  // From the one that is shown if the playhead still stands there, and among those at one place.
  const index = current && current.start === here ? open.indexOf(current) : -1;
  const next = index >= 0 ? open[index + (back ? -1 : 1)] : following(open, here - 1, back);
  if (!next) return announce(`There is no snag ${back ? "before" : "after"} here.`);
  show(next);
};

const chosen = async (context: Context): Promise<Snag | undefined> => {
  const snag = (await known(context)).find((s) => s.id === useView.getState().snag);
  if (!snag) announce("No snag is chosen. Z goes to the next one.");
  return snag;
};

/** Play a snag as it would be, settled in one way, or as it is. */
export function hear(snag: Snag, option: Option | null) {
  const end = snag.start + snag.frames;
  if (!option || option.decision.do === "keep") {
    return play(Math.max(0, snag.start - AROUND), end + AROUND);
  }
  const { do: what, attempt = -1 } = option.decision;
  const out = what === "cut" || what === "trim";
  const last = snag.attempts.at(-1);
  // Of a repeat one attempt stays and is heard; of all else what is cut is gone.
  const stays = attempt < 0 ? last : snag.attempts[attempt];
  const start = out ? (snag.kind === "air" ? snag.start : snag.cut_start) : snag.start;
  const span =
    snag.kind === "repeat"
      ? { start: snag.start, end: snag.start + (stays?.frames ?? 0) }
      : { start, end: out ? start : end };
  playSettled({ id: snag.id, do: what, attempt }, span);
}

export const hearSnag = (settled: boolean) => async (context: Context) => {
  const snag = await chosen(context);
  if (snag) hear(snag, settled ? (optionsOf(snag)[0] ?? null) : null);
};

/** Settle a snag and go to the next. */
export async function settle(context: Context, snag: Snag, option: Option) {
  const open = listed(await known(context), useView.getState().snagsOf);
  const next = open[open.findIndex((s) => s.id === snag.id) + 1];
  const episode = await context.decide([option.decision]);
  useView.getState().select(null);
  const after = await known({ ...context, episode });
  const there = after.find((s) => s.id === next?.id);
  if (there) return show(there);
  useView.setState({ snag: null });
}

export const chooseOption = (which: number | "keep") => async (context: Context) => {
  const snag = await chosen(context);
  if (!snag) return;
  const options = optionsOf(snag);
  const option = which === "keep" ? options.at(-1) : options.slice(0, -1)[which];
  if (!option) return announce("That cannot be done about this snag.");
  await settle(context, snag, option);
};

/** Keys of an open episode: which key does what, as the host has set it. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { useNavigate } from "react-router";
import { create } from "zustand";
import type { Episode } from "../api/client";
import { useDecide, useEdit, useStep } from "../api/queries";
import { landOverSelection } from "../record/landing";
import { ACTIONS } from ".";
import { type Action, type Context, perform } from "./action";

const KEPT = "airtrim-keys";

/** Keys that belong to the browser, or that a page never sees. */
const BROWSERS = [
  ..."TWNRLDPSFGHJKUQ0123456789".split("").map((k) => `Ctrl+${k}`),
  ..."TNWRIJP".split("").map((k) => `Ctrl+Shift+${k}`),
  ..."F1 F3 F5 F6 F10 F11 F12 Tab Shift+Tab Ctrl+Tab Alt+ArrowLeft Alt+ArrowRight".split(" "),
];

type Chosen = Record<string, string[]>;

function kept(): Chosen {
  try {
    const value: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "{}");
    return value && typeof value === "object" ? (value as Chosen) : {};
  } catch {
    return {};
  }
}

export const useChosenKeys = create<{ chosen: Chosen }>(() => ({ chosen: kept() }));

function keep(chosen: Chosen) {
  localStorage.setItem(KEPT, JSON.stringify(chosen));
  useChosenKeys.setState({ chosen });
}

/** The keys of an action now. */
export const keysOf = (action: Action, chosen: Chosen) => chosen[action.id] ?? action.keys;

/** Give an action a key; a sentence where it cannot be. */
export function chooseKey(action: Action, key: string): string | null {
  const { chosen } = useChosenKeys.getState();
  if (BROWSERS.includes(key)) return `${spoken(key)} belongs to the browser.`;
  const other = ACTIONS.find(
    (a) => a !== action && meet(a, action) && keysOf(a, chosen).includes(key),
  );
  if (other) return `${spoken(key)} is already: ${other.says}.`;
  keep({ ...chosen, [action.id]: [key] });
  return null;
}

export function usualKeys(action?: Action) {
  const { chosen } = useChosenKeys.getState();
  if (!action) return keep({});
  keep(Object.fromEntries(Object.entries(chosen).filter(([id]) => id !== action.id)));
}

/** A pressed key as it is written in the list: "Ctrl+Shift+Z", "ArrowLeft", "?". */
export function pressed(event: KeyboardEvent): string {
  const one = event.key.length === 1;
  const name = event.key === " " ? "Space" : one ? event.key.toUpperCase() : event.key;
  const letter = /^[A-Z]$/.test(name);
  const held = [
    (event.ctrlKey || event.metaKey) && "Ctrl",
    event.altKey && "Alt",
    event.shiftKey && (letter || !one || event.key === " ") && "Shift",
  ].filter(Boolean);
  return [...held, name].join("+");
}

const SPOKEN: Record<string, string> = {
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  Escape: "Esc",
};

export const spoken = (key: string) =>
  key
    .split(/\+(?=.)/)
    .map((part) => SPOKEN[part] ?? part)
    .join(" ");

/** What actions need of an open episode. */
export function useContext(episode: Episode | undefined, show: Context["show"]): Context | null {
  const queries = useQueryClient();
  const id = episode?.id ?? 0;
  const edit = useEdit(id);
  const decide = useDecide(id);
  const undo = useStep(id, "undo");
  const redo = useStep(id, "redo");
  const go = useNavigate();
  return useMemo(
    () =>
      episode
        ? {
            episode,
            queries,
            edit: edit.mutate,
            decide: decide.mutateAsync,
            undo: () => undo.mutate(undefined),
            redo: () => redo.mutate(undefined),
            show,
            retake: () => {
              landOverSelection();
              go(`/episodes/${episode.id}/record`);
            },
          }
        : null,
    [episode, queries, edit.mutate, decide.mutateAsync, undo.mutate, redo.mutate, show, go],
  );
}

const PAGE = "edit";

const stagesOf = (action: Action) => action.stages ?? [PAGE];

const isOn = (action: Action, stage: string) =>
  action.stages === "everywhere" || stagesOf(action).includes(stage);

/** What can be done on a stage by its keys. */
export const actionsOn = (stage: string) => ACTIONS.filter((action) => isOn(action, stage));

/** Whether two actions are ever among the keys of one stage, neither going before the other. */
function meet(one: Action, other: Action): boolean {
  const [a, b] = [stagesOf(one), stagesOf(other)];
  if (a === "everywhere" || b === "everywhere") return isOn(one, PAGE) && isOn(other, PAGE);
  return a.some((stage) => b.includes(stage));
}

/** The keys of a stage; what is its own goes before what works everywhere. */
function keysOn(stage: string, chosen: Chosen): Map<string, Action> {
  const everywhere = ACTIONS.filter((action) => action.stages === "everywhere");
  const own = ACTIONS.filter((action) => action.stages !== "everywhere" && isOn(action, stage));
  return new Map(
    [...everywhere, ...own].flatMap((a) => keysOf(a, chosen).map((key) => [key, a] as const)),
  );
}

const TYPING =
  "input:not([type=checkbox], [type=radio], [type=range]), textarea, select, [role=dialog], " +
  "[role=menu], [contenteditable]";

/** Groups whose actions move something a little: their keys repeat while they are held down. */
const REPEATING = ["Go", "Select", "Look", "Gain"];
const repeats = (action: Action) => action.repeats ?? REPEATING.includes(action.group);

/** Whether a dialog or menu is open, whatever has the focus. */
const isCovered = () =>
  document.querySelector("[role=dialog], [role=alertdialog], [role=menu]:not([hidden])") !== null;

export function useKeys(context: Context | null, stage: string) {
  const chosen = useChosenKeys((k) => k.chosen);
  useEffect(() => {
    if (!context) return;
    const byKey = keysOn(stage, chosen);
    let holding: Action | null = null;
    const press = (event: KeyboardEvent) => {
      const on = event.target as HTMLElement;
      if (on.closest(TYPING)) return;
      const action = byKey.get(pressed(event));
      if (!action || isCovered()) return;
      if (event.repeat && (action.release || !repeats(action))) return event.preventDefault();
      const onControl = on.closest("button, a, input, [role=slider], [role=tab]");
      if (on.closest("input") && event.key === " ") return;
      if (onControl && event.key === "Enter") return;
      if (on.closest("[role=slider], [role=tab]") && event.key.startsWith("Arrow")) return;
      if (event.key === " " && onControl) on.blur();
      event.preventDefault();
      if (action.release) holding = action;
      perform(action, context);
    };
    const letGo = () => {
      holding?.release?.(context);
      holding = null;
    };
    addEventListener("keydown", press);
    addEventListener("keyup", letGo);
    addEventListener("blur", letGo);
    return () => {
      removeEventListener("keydown", press);
      removeEventListener("keyup", letGo);
      removeEventListener("blur", letGo);
    };
  }, [context, chosen, stage]);
}

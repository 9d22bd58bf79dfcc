/** Light or dark: what the machine asks for until the host says otherwise. */
import { create } from "zustand";

export type Mode = "light" | "dark";

const KEY = "airtrim-mode";

function initial(): Mode {
  const kept = localStorage.getItem(KEY);
  if (kept === "light" || kept === "dark") return kept;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

function show(mode: Mode) {
  document.documentElement.classList.remove("light", "dark");
  document.documentElement.classList.add(mode);
  document.documentElement.style.colorScheme = mode;
}

export const useMode = create<{ mode: Mode; toggle: () => void }>((set, get) => {
  const mode = initial();
  show(mode);
  return {
    mode,
    toggle: () => {
      const next = get().mode === "light" ? "dark" : "light";
      localStorage.setItem(KEY, next);
      show(next);
      set({ mode: next });
    },
  };
});

/** Light or dark: what the machine asks for, also when it changes, until the host says otherwise. */
import { create } from "zustand";

export type Mode = "light" | "dark";

const KEY = "airtrim-mode";
const machine = matchMedia("(prefers-color-scheme: dark)");

function wanted(): Mode {
  const kept = localStorage.getItem(KEY);
  if (kept === "light" || kept === "dark") return kept;
  return machine.matches ? "dark" : "light";
}

function show(mode: Mode) {
  document.documentElement.classList.remove("light", "dark");
  document.documentElement.classList.add(mode);
  document.documentElement.style.colorScheme = mode;
}

export const useMode = create<{ mode: Mode; toggle: () => void }>((_, get) => ({
  mode: wanted(),
  toggle: () => {
    localStorage.setItem(KEY, get().mode === "light" ? "dark" : "light");
    useMode.setState({ mode: wanted() });
  },
}));

show(useMode.getState().mode);
useMode.subscribe(({ mode }) => show(mode));
machine.addEventListener("change", () => useMode.setState({ mode: wanted() }));

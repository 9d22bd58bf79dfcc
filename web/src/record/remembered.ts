/** Which microphones the host used last, by device and name, kept in this browser. */
import type { Device } from "./microphones";

export interface Remembered {
  device: string;
  name: string;
  track: string;
}

const KEY = "airtrim-microphones";

export function recall(): Remembered[] {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "[]") as Remembered[];
    return Array.isArray(kept) ? kept.filter((m) => typeof m.device === "string") : [];
  } catch {
    return [];
  }
}

export const remember = (microphones: Remembered[]) =>
  localStorage.setItem(KEY, JSON.stringify(microphones));

/** The device that was meant: the same one, or one of the same name; undefined if it is missing. */
export const findAgain = (devices: Device[], wanted: Remembered) =>
  wanted.device === ""
    ? { id: "", name: wanted.name }
    : (devices.find((d) => d.id === wanted.device) ?? devices.find((d) => d.name === wanted.name));

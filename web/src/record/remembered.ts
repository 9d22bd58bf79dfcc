/** Which microphones and which output were used last, by device and name, kept in this browser. */
import { MICROPHONE, type Microphone } from "./capture";
import type { Device } from "./microphones";

export interface Remembered extends Microphone {
  name: string;
}

const KEY = "airtrim-microphones";
const OUTPUT = "airtrim-output";
const SCRIPT = "airtrim-script-place";

const kept = <T>(key: string): T | null => {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") as T | null;
  } catch {
    return null;
  }
};

export function recall(): Remembered[] {
  const found = kept<Partial<Remembered>[]>(KEY);
  return Array.isArray(found)
    ? found
        .filter((m) => typeof m.device === "string")
        .map((m) => ({ name: "", ...MICROPHONE, ...m }))
    : [];
}

export const remember = (microphones: Remembered[]) =>
  localStorage.setItem(KEY, JSON.stringify(microphones));

export const recallOutput = () => kept<Device>(OUTPUT);
export const rememberOutput = (device: Device) =>
  localStorage.setItem(OUTPUT, JSON.stringify(device));

/** The paragraph of an episode's script that was read last. */
export const recallPlace = (episode: number) =>
  kept<Record<string, number>>(SCRIPT)?.[episode] ?? 0;
export const rememberPlace = (episode: number, paragraph: number) =>
  localStorage.setItem(SCRIPT, JSON.stringify({ ...kept(SCRIPT), [episode]: paragraph }));

/** The device that was meant: the same one, or one of the same name; undefined if it is missing. */
export const findAgain = (devices: Device[], wanted: { device: string; name: string }) =>
  wanted.device === ""
    ? { id: "", name: wanted.name }
    : (devices.find((d) => d.id === wanted.device) ?? devices.find((d) => d.name === wanted.name));

/** Frames as people read and write them. */
import { RATE } from "./api/client";

/** m:ss.t, or h:mm:ss.t from an hour on. */
export function clock(frames: number, digits = 1): string {
  const unit = 10 ** digits;
  const total = Math.max(0, Math.round((frames / RATE) * unit));
  const seconds = Math.floor(total / unit) % 60;
  const minutes = Math.floor(total / unit / 60) % 60;
  const hours = Math.floor(total / unit / 3600);
  const tail = `${String(seconds).padStart(2, "0")}${digits ? `.${String(total % unit).padStart(digits, "0")}` : ""}`;
  return hours ? `${hours}:${String(minutes).padStart(2, "0")}:${tail}` : `${minutes}:${tail}`;
}

/** A moment that the server tells, with its zone or without: it means UTC. */
export const instant = (text: string) =>
  new Date(/(Z|[+-]\d\d:\d\d)$/.test(text) ? text : `${text}Z`);

/** The day of such a moment where the host is: 30 Nov 2026. */
export const dayOf = (text: string) => instant(text).toLocaleDateString("en-GB", DAY);

/** The day and the time of day: 30 Nov 2026, 03:53. */
export const momentOf = (text: string) =>
  instant(text).toLocaleString("en-GB", { ...DAY, ...TIME_OF_DAY });

/** Today the time of day; before, the day. */
export const lately = (text: string) =>
  instant(text).toDateString() === new Date().toDateString()
    ? instant(text).toLocaleTimeString("en-GB", TIME_OF_DAY)
    : dayOf(text);

const DAY = { day: "numeric", month: "short", year: "numeric" } as const;
const TIME_OF_DAY = { hour: "2-digit", minute: "2-digit" } as const;

/** Frames from "75", "1:15.5" or "1:02:03"; null where it is no time. */
export function parseClock(text: string): number | null {
  const parts = text.trim().split(":");
  if (parts.length > 3 || parts.some((p) => !/^\d+(\.\d+)?$/.test(p))) return null;
  return Math.round(parts.reduce((sum, part) => sum * 60 + Number(part), 0) * RATE);
}

export const seconds = (frames: number) => `${(frames / RATE).toFixed(1)} s`;

/** A number with a real minus sign and its unit. */
export function figure(value: number | null | undefined, unit: string, digits = 1): string {
  if (value === null || value === undefined) return "—";
  const rounded = value.toFixed(digits);
  const text = Number(rounded) === 0 ? (0).toFixed(digits) : rounded;
  return `${text.replace("-", "−")} ${unit}`;
}

export function megabytes(bytes: number): string {
  if (bytes < 1e6) return `${Math.round(bytes / 1000)} kB`;
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

/**
 * The recorder: microphones into the capture worklet, its pieces into the outbox, the outbox to
 * the server. One recorder for the page; its state is read by the Record stage.
 */
import { create } from "zustand";
import { client, type Landing, Problem, RATE, type Recording, take } from "../api/client";
import { play, position, stop, usePlayer } from "../playback/player";
import { announce, complain } from "../theme/toaster";
import { clock } from "../time";
import type { FromCapture, ToCapture } from "./capture.worklet";
import captureUrl from "./capture.worklet.ts?worker&url";
import { type Opened, openContext, openDevice } from "./microphones";
import { keep, sendAll } from "./outbox";

export interface Microphone {
  device: string;
  track: string;
}

export interface Level {
  peak: number;
  /** Highest peak of the last seconds. */
  held: number;
  clipped: boolean;
}

export type Phase = "off" | "opening" | "ready" | "leading" | "recording" | "paused" | "ending";

/** What comes before a recording: nothing, a count of three, or the sound before its place. */
export type LeadIn = "none" | "count" | "hear";
const LEAD_S = 3;

interface State {
  phase: Phase;
  episode: number;
  recording: string | null;
  tracks: string[];
  landing: Landing;
  levels: Level[];
  frames: number;
  /** Frames that the server has on disk. */
  safe: number;
  secondsLeft: number | null;
  flags: number[];
  /** Seconds until recording begins, while it leads in. */
  lead: number;
  /** What is wrong with the microphones, and with sending, in sentences. */
  trouble: string | null;
  unsent: string | null;
}

export const AFTER: Landing = { at: null, replacing: 0, alongside: false };

export const useRecorder = create<State>(() => ({
  phase: "off",
  episode: 0,
  recording: null,
  tracks: [],
  landing: AFTER,
  levels: [],
  frames: 0,
  safe: 0,
  secondsLeft: null,
  flags: [],
  lead: 0,
  trouble: null,
  unsent: null,
}));

/** Columns of the sound recorded in this visit, for drawing: peak and RMS of each track. */
export interface Columns {
  frame: number;
  peaks: number[];
  rms: number[];
}
export const columns: Columns[] = [];

const HOLD_S = 4;
/** A clock that runs ahead of the sound by more than this was a sleep, not a delay. */
const SLEPT_S = 1;

let context: AudioContext | null = null;
let capture: AudioWorkletNode | null = null;
let opened: Opened[] = [];
let chosen: Microphone[] = [];
/** Whether one of them went away since they were opened. */
let lost = false;
let number = 0;
let writing: Promise<unknown> = Promise.resolve();
let sending: Promise<void> | null = null;
let heard: { at: number; time: number } | null = null;
let heldSince: number[] = [];
let onHeld: (() => void) | null = null;
let taps: ((data: FromCapture) => void)[] = [];

const set = useRecorder.setState;
const get = useRecorder.getState;

/** Open microphones and show their levels. */
export async function openMicrophones(microphones: Microphone[]): Promise<void> {
  await closeMicrophones();
  chosen = microphones;
  lost = false;
  set({ phase: "opening", trouble: null });
  try {
    context = openContext();
    await context.audioWorklet.addModule(captureUrl);
    const count = microphones.length;
    const merger = new ChannelMergerNode(context, { numberOfInputs: count });
    for (const [index, microphone] of microphones.entries()) {
      const device = await openDevice(context, microphone.device, () => gone(index));
      opened.push(device);
      const mono = new GainNode(context, {
        channelCount: 1,
        channelCountMode: "explicit",
        channelInterpretation: "speakers",
      });
      device.node.connect(mono).connect(merger, 0, index);
    }
    capture = new AudioWorkletNode(context, "capture", {
      numberOfOutputs: 0,
      channelCount: count,
      channelCountMode: "explicit",
      channelInterpretation: "discrete",
      processorOptions: { channels: count },
    });
    capture.port.onmessage = ({ data }: MessageEvent<FromCapture>) => hear(data);
    merger.connect(capture);
    await context.resume();
    heldSince = new Array(count).fill(0);
    const silent = { peak: 0, held: 0, clipped: false };
    set({ phase: "ready", levels: microphones.map(() => silent) });
  } catch (error) {
    await closeMicrophones();
    set({ trouble: error instanceof Error ? error.message : "The microphone did not open." });
  }
}

export async function closeMicrophones(): Promise<void> {
  for (const device of opened) device.close();
  opened = [];
  capture?.port.close();
  capture = null;
  heard = null;
  await context?.close().catch(() => undefined);
  context = null;
  set({ phase: "off", levels: [] });
}

const say = (message: ToCapture) => capture?.port.postMessage(message);

function hear(data: FromCapture) {
  for (const tap of taps) tap(data);
  const { recording } = get();
  switch (data.kind) {
    case "levels":
      return showLevels(data);
    case "piece":
      if (recording) store(recording, data.start, data.data);
      return;
    case "flag":
      if (recording) void mark(recording, data.at, "flag", "Flagged while recording");
      return;
    case "held":
      if (recording) set({ frames: data.frames });
      onHeld?.();
      onHeld = null;
  }
}

function showLevels(data: Extract<FromCapture, { kind: "levels" }>) {
  const now = performance.now() / 1000;
  const levels = data.peaks.map((peak, i) => {
    const before = get().levels[i];
    const holding = before && now - (heldSince[i] ?? 0) < HOLD_S && before.held > peak;
    if (!holding) heldSince[i] = now;
    return {
      peak,
      held: holding ? before.held : peak,
      clipped: peak >= 0.999 || Boolean(holding && before.clipped),
    };
  });
  const { phase, recording } = get();
  if (phase === "recording" && recording) {
    columns.push({ frame: data.frames, peaks: data.peaks, rms: data.rms });
    const slept = heard ? now - heard.at - (data.time - heard.time) : 0;
    if (slept > SLEPT_S) {
      void mark(recording, data.frames, "gap", `Nothing was heard for ${slept.toFixed(1)} s`);
      set({ trouble: "The machine was asleep or too busy: the gap is marked." });
    }
    set({ levels, frames: data.frames });
  } else set({ levels });
  heard = { at: now, time: data.time };
}

function store(recording: string, start: number, data: Float32Array) {
  const piece = { recording, number: number++, start, data };
  writing = writing.then(() => keep(piece)).catch(complain);
  void writing.then(() => send(recording));
}

/** Send what waits; while something is being sent, what comes later goes with it. */
function send(recording: string): Promise<void> {
  sending ??= sendAll(
    recording,
    () => get().recording === recording,
    (sent) => set({ safe: sent.frames, secondsLeft: sent.secondsLeft }),
    (unsent) => set({ unsent }),
  )
    .catch((error: Error) => set({ unsent: error.message }))
    .finally(() => {
      sending = null;
    });
  return sending;
}

async function mark(recording: string, at: number, kind: "flag" | "gap", name: string) {
  set(({ flags }) => ({ flags: kind === "flag" ? [...flags, at] : flags }));
  for (let tries = 0; tries < 60; tries++) {
    try {
      const path = { recording_id: recording };
      await take(
        client.POST("/api/recordings/{recording_id}/flags", {
          params: { path },
          body: { at, kind, name },
        }),
      );
      return;
    } catch (error) {
      if (error instanceof Problem && error.status >= 400 && error.status < 500) {
        return complain(error);
      }
      await new Promise((done) => setTimeout(done, 1000));
    }
  }
}

function gone(index: number) {
  lost = true;
  const name = opened[index]?.name ?? "The microphone";
  const { recording, phase, frames } = get();
  if (recording && phase === "recording") {
    void mark(recording, frames, "gap", `${name} went away`);
    void hold().then(() =>
      set({ trouble: `${name} went away. What was said until then is kept; recording is paused.` }),
    );
  } else set({ trouble: `${name} went away. Plug it in, or choose another.` });
}

interface Begin {
  episode: number;
  microphones: Microphone[];
  landing: Landing;
  leadIn: LeadIn;
  /** The frame of the episode that it follows, to be heard up to. */
  after: number;
  /** A recording that was left, to go on with. */
  left?: Recording;
}

/** Begin a recording, or go on with one that was left. */
export async function record(begin: Begin): Promise<void> {
  const { episode, microphones, landing, left } = begin;
  if (get().phase !== "ready") return;
  try {
    const recording =
      left ??
      (await take(
        client.POST("/api/episodes/{episode_id}/recordings", {
          params: { path: { episode_id: episode } },
          body: { tracks: microphones.map((m) => m.track), landing },
        }),
      ));
    number = recording.pieces;
    columns.length = 0;
    heard = null;
    set({
      phase: "leading",
      episode,
      recording: recording.id,
      tracks: [...recording.tracks],
      landing,
      frames: recording.frames,
      safe: recording.frames,
      flags: recording.flags.filter((f) => f.kind === "flag").map((f) => f.at),
      trouble: null,
      unsent: null,
    });
    await lead(begin.leadIn, begin.after);
    if (get().phase !== "leading") return;
    stop();
    set({ phase: "recording" });
    if (left && recording.frames > 0) {
      void mark(recording.id, recording.frames, "gap", "Interrupted here, then gone on");
    }
    holdLock(recording.id);
    say({ kind: "run", on: true, at: recording.frames });
  } catch (error) {
    complain(error);
  }
}

async function lead(leadIn: LeadIn, at: number): Promise<void> {
  if (leadIn === "none") return;
  const from = Math.max(0, at - LEAD_S * RATE);
  if (leadIn === "hear" && from < at) play(from, at);
  const began = performance.now();
  const heard = () =>
    leadIn === "hear" && usePlayer.getState().playing
      ? (at - position()) / RATE
      : LEAD_S - (performance.now() - began) / 1000;
  for (let left = heard(); left > 0 && get().phase === "leading"; left = heard()) {
    set({ lead: Math.ceil(left) });
    await new Promise((done) => setTimeout(done, 20));
  }
}

/** Do not record after all, while it leads in. */
export async function callOff(): Promise<void> {
  const { phase, recording } = get();
  if (phase !== "leading" || !recording) return;
  stop();
  set({ phase: "ready", recording: null });
  const path = { recording_id: recording };
  await take(client.POST("/api/recordings/{recording_id}/discard", { params: { path } })).catch(
    complain,
  );
}

const lockOf = (recording: string) => `airtrim-recording-${recording}`;
let letGo: () => void = () => undefined;

/** Other tabs can tell by a lock that a recording is being made; a crash lets it go. */
function holdLock(recording: string) {
  void navigator.locks?.request(
    lockOf(recording),
    () =>
      new Promise<void>((done) => {
        letGo = done;
      }),
  );
}

/** Whether a recording is being made, in this tab or another. */
export async function isBeingMade(recording: string): Promise<boolean> {
  const held = (await navigator.locks?.query())?.held ?? [];
  return held.some((lock) => lock.name === lockOf(recording));
}

/** Stop listening for now; resolves when the last piece is in the outbox. */
async function hold(): Promise<void> {
  if (get().phase !== "recording") return;
  const done = new Promise<void>((resolve) => {
    onHeld = resolve;
  });
  say({ kind: "run", on: false });
  await done;
  set({ phase: "paused" });
  await writing;
}

export const pause = () => hold();

/** Go on after a pause; a microphone that went away is opened again first. */
export async function goOn(): Promise<void> {
  const { phase, frames } = get();
  if (phase !== "paused") return;
  if (lost) {
    await openMicrophones(chosen);
    if (get().phase !== "ready") return set({ phase: "paused" });
  }
  heard = null;
  set({ phase: "recording", trouble: null });
  say({ kind: "run", on: true, at: frames });
}

export const flag = () => say({ kind: "flag" });

/** End the recording and put it into the episode. */
export async function finish(): Promise<void> {
  const { recording, landing } = get();
  if (!recording) return;
  await hold();
  set({ phase: "ending" });
  try {
    await send(recording);
    await add(recording, landing);
    letGo();
    announce(`${clock(get().frames)} were recorded, and are on the Page in a moment.`);
    set({ recording: null, phase: "ready", frames: 0, safe: 0, flags: [], unsent: null });
  } catch (error) {
    set({ phase: "paused" });
    complain(error);
  }
}

/** Put a recording into its episode, what waits in this browser first. */
export async function add(recording: string, landing: Landing | null): Promise<void> {
  await sendAll(
    recording,
    () => false,
    () => undefined,
    () => undefined,
  );
  const path = { recording_id: recording };
  const { pieces } = await take(client.GET("/api/recordings/{recording_id}", { params: { path } }));
  await take(
    client.POST("/api/recordings/{recording_id}/add", {
      params: { path },
      body: { pieces, landing },
    }),
  );
}

/** Listen for some seconds without recording; resolves with one channel's samples. */
export function listen(channel: number, seconds: number): Promise<Float32Array> {
  return new Promise((resolve) => {
    const count = get().levels.length;
    const wanted = seconds * RATE;
    const parts: Float32Array[] = [];
    let had = 0;
    const tap = (data: FromCapture) => {
      if (data.kind === "piece") {
        const frames = data.data.length / count;
        parts.push(
          Float32Array.from({ length: frames }, (_, i) => data.data[i * count + channel] ?? 0),
        );
        had += frames;
        if (had >= wanted) say({ kind: "run", on: false });
      }
      if (data.kind === "held") {
        taps = taps.filter((t) => t !== tap);
        const all = new Float32Array(had);
        let at = 0;
        for (const part of parts) {
          all.set(part, at);
          at += part.length;
        }
        resolve(all.subarray(0, wanted));
      }
    };
    taps.push(tap);
    say({ kind: "run", on: true, at: 0 });
  });
}

addEventListener("beforeunload", (event) => {
  const { phase } = get();
  if (phase === "recording" || phase === "paused" || phase === "ending") event.preventDefault();
});

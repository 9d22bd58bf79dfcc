/**
 * One recording while it is made: pieces from the worklet into the outbox, the outbox to the server,
 * moments marked, gaps found. The host's recorder and a guest's page both use it.
 */
import { create } from "zustand";
import { AFTER, type Landing, Problem, RATE, type Recording } from "../api/client";
import { audio } from "../playback/audio";
import { armed, askMoment, inputLatency, lease, onCapture, onGone, useCapture } from "./capture";
import type { Column, FromCapture } from "./capture.worklet";
import { heardAt } from "./clock";
import type { Holder, Piece } from "./lease";
import { outbox } from "./outbox";
import type { FromOutbox, ToOutbox } from "./outbox.worker";
import OutboxWorker from "./outbox.worker.ts?worker";

export type Phase = "idle" | "leading" | "recording" | "paused" | "ending";

interface State {
  phase: Phase;
  episode: number;
  recording: string | null;
  tracks: string[];
  /** Which microphone is on each track. */
  inputs: number[];
  landing: Landing;
  frames: number;
  /** Frames that the server has on disk. */
  safe: number;
  secondsLeft: number | null;
  flags: number[];
  /** Seconds until recording begins, while it leads in. */
  lead: number;
  /** What went wrong while recording, and with sending, in sentences. */
  trouble: string | null;
  unsent: string | null;
  /** Guests whose sound has not all come yet. */
  waitingFor: string[];
}

const IDLE = {
  phase: "idle" as Phase,
  recording: null,
  tracks: [],
  inputs: [],
  landing: AFTER,
  frames: 0,
  safe: 0,
  flags: [],
  lead: 0,
  trouble: null,
  unsent: null,
  waitingFor: [],
};

export const useTape = create<State>(() => ({ ...IDLE, episode: 0, secondsLeft: null }));

/** Columns of the sound recorded in this visit, for drawing: peak and RMS of each track. */
export const columns: Column[] = [];

/** A clock that runs ahead of the sound by more than this was a sleep, not a delay. */
const SLEPT_S = 1;

const set = useTape.setState;
const get = useTape.getState;

/** The address that recordings are under: the host's own, or a guest's. */
let base = "/api";
let number = 0;
let run = 0;
let seen: { at: number; time: number } | null = null;
let holder: Holder | null = null;
/** What is shown of it with the next levels. */
let frames = 0;
let acknowledged: Partial<State> = {};
/** The context's time of the first frame recorded in this visit. */
let firstTime: ((time: number) => void) | null = null;

onCapture(hear);
onGone((name) => {
  const { recording, phase } = get();
  if (!recording || phase !== "recording") return;
  mark(recording, frames, "gap", `${name} went away`);
  void hold().then(() =>
    set({ trouble: `${name} went away. What was said until then is kept; recording is paused.` }),
  );
});

/** Take up a recording: a new one, or one that was left, after what waits of it in this browser. */
export async function thread(known: Recording, more: Partial<State>, under = "/api") {
  // In this order: what waits here may come to be there in between, and is counted either way.
  const left = await outbox.reached(known.id);
  const recording = await asItStands(known, under);
  frames = Math.max(recording.frames, left?.frames ?? 0);
  acknowledged = {};
  base = under;
  number = Math.max(recording.pieces, left?.number ?? 0);
  run = Date.now() % 1e9;
  columns.length = 0;
  set({
    ...IDLE,
    recording: recording.id,
    episode: recording.episode_id,
    landing: recording.landing,
    frames,
    safe: recording.frames,
    flags: recording.flags.filter((f) => f.kind === "flag").map((f) => f.at),
    ...more,
  });
}

async function asItStands(known: Recording, under: string): Promise<Recording> {
  const answer = await fetch(`${under}/recordings/${known.id}`).catch(() => null);
  return answer?.ok ? ((await answer.json()) as Recording) : known;
}

/** Let go of it; what was sent is safe. */
export function unthread() {
  letGo();
  letGo = () => undefined;
  set({ ...IDLE });
}

/** Record from here on; resolves with the context's time of the first frame. */
export function roll(): Promise<number> {
  const { recording } = get();
  frames = get().frames;
  const channels = armed();
  seen = null;
  run += 1;
  set({
    phase: "recording",
    tracks: channels.map((m) => m.track),
    inputs: channels.map((m) => m.input),
    trouble: null,
  });
  if (recording) holdLock(recording);
  const first = new Promise<number>((resolve) => {
    firstTime = resolve;
  });
  if (recording) {
    holder = {
      purpose: "recording",
      channels: channels.map((m) => m.input),
      at: frames,
      onPiece: (piece) => {
        if (get().recording !== recording) return;
        firstTime?.(piece.time);
        firstTime = null;
        store(recording, piece);
      },
      onStopped: (reached) => get().recording === recording && set({ frames: reached }),
      onDisplaced: ({ message }) => {
        if (get().recording !== recording) return;
        mark(recording, frames, "gap", "The recording was interrupted");
        set({ phase: "paused", trouble: `${message} The recording is paused.` });
      },
    };
    lease.start(holder);
    watch();
  }
  return first;
}

/** No level for so long means that nothing is recorded. The browser reports it six times a second. */
const SILENT_MS = 5000;
let watching = 0;
const STOPPED =
  "No sound has come from the microphone for five seconds, and nothing is recorded. Pause, then go on.";

/** Tell the host when the sound stops while the recording goes on. */
function watch() {
  clearInterval(watching);
  let last = performance.now();
  let before = get().frames;
  watching = window.setInterval(() => {
    const { phase, frames: now, trouble } = get();
    if (phase !== "recording") return clearInterval(watching);
    const passed = performance.now() - last;
    if (now !== before) {
      before = now;
      last = performance.now();
      if (trouble === STOPPED) set({ trouble: null });
    } else if (passed > SILENT_MS && !trouble) set({ trouble: STOPPED });
  }, 1000);
}

/** Stop recording for now; resolves when the last piece is on its way to the outbox. */
export async function hold(): Promise<void> {
  if (get().phase !== "recording") return;
  if (holder) await lease.stop(holder);
  set({ phase: "paused" });
}

const moments = new Map<number, (at: number) => void>();
/** A context that the browser has suspended does not answer. */
const MOMENT_MS = 1500;

/** The frame that is recorded now, as the audio thread reports it. Sound of this moment arrives a
 * little later; the input latency is added. Without an answer it is the last frame that is known. */
export function moment(): Promise<number> {
  return new Promise((resolve) => {
    const ask = ++asks;
    const answer = (at: number) => {
      clearTimeout(timer);
      moments.delete(ask);
      resolve(at + Math.round(inputLatency() * RATE));
    };
    const timer = setTimeout(() => answer(frames), MOMENT_MS);
    moments.set(ask, answer);
    askMoment(ask, audio().currentTime);
  });
}

/** Mark the moment at which the key was pressed. */
export async function flag() {
  const { recording } = get();
  if (!recording) return;
  mark(recording, await moment(), "flag", "Flagged while recording");
}

function hear(data: FromCapture) {
  if (data.kind === "moment") return moments.get(data.ask)?.(data.at);
  const { recording, phase } = get();
  if (data.kind === "levels" && recording && phase === "recording") follow(recording, data);
}

function follow(recording: string, data: Extract<FromCapture, { kind: "levels" }>) {
  // Levels that were sent before it began count the frames of an earlier run.
  if (!data.run || data.run !== lease.run) return;
  const { inputs } = get();
  const pick = (values: number[]) => inputs.map((i) => values[i] ?? 0);
  for (const { frame, peaks, rms } of data.columns) {
    columns.push({ frame, peaks: pick(peaks), rms: pick(rms) });
  }
  const now = performance.now() / 1000;
  const slept = seen ? now - seen.at - (data.time - seen.time) : 0;
  seen = { at: now, time: data.time };
  if (slept > SLEPT_S) {
    run += 1;
    mark(recording, data.frames, "gap", `Nothing was heard for ${slept.toFixed(1)} s`);
    set({ trouble: "The machine was asleep or too busy: the gap is marked." });
  }
  // All that moves on the screen moves with this message: each time costs a picture.
  frames = data.frames;
  set({ frames, ...acknowledged });
}

function store(recording: string, data: Piece) {
  const at = heardAt(data.time);
  const piece = {
    recording,
    base,
    number: number++,
    start: data.start,
    data: data.data,
    channels: get().inputs.length,
    atS: at === null ? null : at - inputLatency(),
    run,
  };
  give({ kind: "piece", piece }, [piece.data.buffer]);
}

let worker: Worker | null = null;
let asks = 0;
const answers = new Map<number, (problem: Problem | null) => void>();

function give(message: ToOutbox, transfer: Transferable[] = []) {
  if (!worker) {
    worker = new OutboxWorker();
    worker.onmessage = ({ data }: MessageEvent<FromOutbox>) => heed(data);
  }
  worker.postMessage(message, transfer);
}

function heed(said: FromOutbox) {
  if (said.kind === "done") {
    answers.get(said.ask)?.(
      said.sentence === null ? null : new Problem(said.sentence, said.status),
    );
    answers.delete(said.ask);
    return;
  }
  if (said.recording !== get().recording) return;
  if (said.kind === "trouble") {
    if (get().unsent !== said.sentence) set({ unsent: said.sentence });
    return;
  }
  acknowledged = { safe: said.frames, secondsLeft: said.secondsLeft };
  if (get().phase !== "recording") set(acknowledged);
}

/** Send all that waits of a recording; with `patient` it is tried for as long as it takes. */
export function send(recording: string, patient: boolean): Promise<void> {
  return new Promise((resolve, reject) => {
    const ask = ++asks;
    answers.set(ask, (problem) => (problem ? reject(problem) : resolve()));
    give({ kind: "send", recording, patient, ask });
  });
}

export function mark(recording: string, at: number, kind: "flag" | "gap", name: string) {
  set(({ flags }) => ({ flags: kind === "flag" ? [...flags, at] : flags }));
  note("POST", recording, "flags", { at, kind, name });
}

/** Notes of one visit and of the next one have rising numbers. */
let noteNumber = Date.now() * 1000;

/** Note something about a recording. It is kept in this browser until the server has it. */
export function note(method: "POST" | "PUT", recording: string, path: string, body: unknown) {
  const address = `${base}/recordings/${recording}/${path}`;
  noteNumber += 1;
  give({ kind: "note", note: { recording, number: noteNumber, method, address, body } });
}

const lockOf = (recording: string) => `airtrim-recording-${recording}`;
let letGo: () => void = () => undefined;

/** Other tabs can tell by a lock that a recording is being made; a crash lets it go. */
function holdLock(recording: string) {
  letGo();
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

addEventListener("beforeunload", (event) => {
  const { phase } = get();
  if (phase === "recording" || phase === "paused" || phase === "ending") event.preventDefault();
});

/** Whether the microphones can be recorded now. */
export const useReady = () => {
  const on = useCapture((c) => c.phase === "on");
  return useTape((t) => t.phase) === "idle" && on;
};

/** Whole seconds of sound that the server does not have yet. */
export const useBehind = () => useTape((t) => Math.max(0, Math.floor((t.frames - t.safe) / RATE)));

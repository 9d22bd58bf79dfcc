/**
 * Microphones into the capture worklet: their levels, what of them is heard, and what the worklet
 * gives. It knows of no recording; that is the tape's.
 */
import { create } from "zustand";
import { Problem, RATE } from "../api/client";
import { runningAudio, speakers } from "../playback/audio";
import type { FromCapture, ToCapture } from "./capture.worklet";
import captureUrl from "./capture.worklet.ts?worker&url";
import { followClock, forgetLags, leaveClock, noteLag } from "./clock";
import { CaptureLease, type Holder } from "./lease";
import { type DeviceGain, type Opened, openDevice, type Treatment, UNTREATED } from "./microphones";

export interface Microphone {
  device: string;
  track: string;
  /** Which channel of the device: 1 is the first, 0 all of them mixed. */
  channel: number;
  /** Whether it is recorded. */
  armed: boolean;
  /** Of what is heard of the microphones while monitoring. */
  muted: boolean;
  solo: boolean;
  treatment: Treatment;
}

export const MICROPHONE: Microphone = {
  device: "",
  track: "Voice",
  channel: 0,
  armed: true,
  muted: false,
  solo: false,
  treatment: UNTREATED,
};

export interface Level {
  peak: number;
  /** Highest peak of the last seconds. */
  held: number;
  clipped: boolean;
}

export interface Input {
  name: string;
  channels: number;
  gain: DeviceGain | null;
}

interface State {
  phase: "off" | "opening" | "on";
  inputs: Input[];
  monitoring: boolean;
  /** What is wrong with the microphones, in a sentence. */
  trouble: string | null;
}

export const useCapture = create<State>(() => ({
  phase: "off",
  inputs: [],
  monitoring: false,
  trouble: null,
}));

const HOLD_S = 4;
const SILENT: Level = { peak: 0, held: 0, clipped: false };
const set = useCapture.setState;
const get = useCapture.getState;

let worklet: AudioWorkletNode | null = null;
let opened: Opened[] = [];
let monitors: GainNode[] = [];
let chosen: Microphone[] = [];
let nodes: AudioNode[] = [];
let sending: MediaStreamAudioDestinationNode | null = null;
/** Whether one of them went away since they were opened. */
let lost = false;
let levels: Level[] = [];
let heldSince: number[] = [];
let loaded: Promise<void> | null = null;

type Listener = (data: FromCapture) => unknown;
const listeners = new Set<Listener>();

/** Hear what the worklet says, until the returned function is called. */
export function onCapture(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

let whenGone: (name: string) => void = () => undefined;
/** Who is told when a microphone goes away, or the browser stops the sound. */
export const onGone = (told: (name: string) => void) => {
  whenGone = told;
};

const say = (message: ToCapture) => worklet?.port.postMessage(message);

/** Who records. The recorder, a guest's page, a trial and the measurement of the delay take turns. */
export const lease = new CaptureLease(say);

/** Ask the worklet which frame it recorded at the context's `time`. */
export const askMoment = (ask: number, time: number) => say({ kind: "moment", ask, time });
export const microphones = () => chosen;
export const armed = () => chosen.map((m, i) => ({ ...m, input: i })).filter((m) => m.armed);
export const isLost = () => lost;
/** From the voice to the context, in seconds: the longest of the microphones that are recorded. */
export const inputLatency = () => Math.max(0, ...opened.map((device) => device.latency));
/** The sound of the microphones, for the call; it is there while they are on. */
export const outgoing = () => sending?.stream ?? null;

/** Let those in the call hear something else than the microphones, too. */
export function alsoSend(node: AudioNode) {
  if (sending) node.connect(sending);
}

/** The number of the latest request to open or close. A device that opens later than that is closed. */
let latest = 0;

/** Open microphones and show their levels. The latest call decides: an earlier one that is still
 * waiting for its device gives it back. */
export async function openMicrophones(wanted: Microphone[]): Promise<void> {
  closeMicrophones();
  const mine = latest;
  chosen = wanted;
  lost = false;
  set({ phase: "opening", trouble: null });
  try {
    const context = await runningAudio();
    loaded ??= context.audioWorklet.addModule(captureUrl);
    await loaded;
    if (mine !== latest) return;
    const merger = new ChannelMergerNode(context, { numberOfInputs: wanted.length });
    sending = new MediaStreamAudioDestinationNode(context, { channelCount: 1 });
    nodes = [merger, sending];
    const devices = new Map<string, Opened>();
    const inputs: Input[] = [];
    for (const [index, microphone] of wanted.entries()) {
      // Two channels of one interface are one device, opened once.
      const key = JSON.stringify([microphone.device, microphone.treatment]);
      let device = devices.get(key);
      if (!device) {
        device = await openDevice(
          context,
          microphone.device,
          microphone.treatment,
          () => mine === latest && gone(index),
        );
        if (mine !== latest) return device.close();
        devices.set(key, device);
        opened.push(device);
      }
      const voice = new GainNode(context, {
        channelCount: 1,
        channelCountMode: "explicit",
        channelInterpretation: "speakers",
      });
      nodes.push(voice);
      if (microphone.channel > 0 && microphone.channel <= device.channels) {
        const splitter = new ChannelSplitterNode(context, { numberOfOutputs: device.channels });
        nodes.push(splitter);
        device.node.connect(splitter).connect(voice, microphone.channel - 1);
      } else device.node.connect(voice);
      voice.connect(merger, 0, index);
      voice.connect(sending);
      const monitor = new GainNode(context, { gain: 0 });
      monitors.push(monitor);
      nodes.push(monitor);
      voice.connect(monitor).connect(speakers());
      inputs.push({ name: device.name, channels: device.channels, gain: device.gain });
    }
    worklet = new AudioWorkletNode(context, "capture", {
      numberOfOutputs: 0,
      channelCount: wanted.length,
      channelCountMode: "explicit",
      channelInterpretation: "discrete",
      processorOptions: { channels: wanted.length },
    });
    worklet.port.onmessage = ({ data }: MessageEvent<FromCapture>) => hear(data);
    merger.connect(worklet);
    context.onstatechange = () => {
      if (context.state === "running" || get().phase !== "on") return;
      lost = true;
      set({ trouble: "The browser stopped the sound. Switch the microphone on again." });
      whenGone("The browser’s sound");
    };
    heldSince = new Array(wanted.length).fill(0);
    forgetLags();
    levels = wanted.map(() => SILENT);
    set({ phase: "on", inputs });
    setMonitoring(get().monitoring);
    void followClock();
  } catch (error) {
    if (mine !== latest) return;
    closeMicrophones();
    set({ trouble: error instanceof Error ? error.message : "The microphone did not open." });
  }
}

export function closeMicrophones() {
  latest += 1;
  lease.displace("The microphone was switched off.");
  for (const device of opened) device.close();
  for (const node of nodes) node.disconnect();
  opened = [];
  monitors = [];
  nodes = [];
  sending = null;
  worklet?.port.close();
  worklet = null;
  leaveClock();
  set({ phase: "off", inputs: [] });
}

/** Change what a microphone is without opening it anew: whether it is recorded or heard. */
export function retune(wanted: Microphone[]) {
  chosen = wanted;
  setMonitoring(get().monitoring);
}

/** Let the host hear the microphones, or not. */
export function setMonitoring(monitoring: boolean) {
  set({ monitoring });
  const solo = chosen.some((m) => m.solo);
  monitors.forEach((node, i) => {
    const microphone = chosen[i];
    const on = monitoring && microphone && !microphone.muted && (!solo || microphone.solo);
    node.gain.value = on ? 1 : 0;
  });
}

function hear(data: FromCapture) {
  if (data.kind === "levels") {
    noteLag(data.time);
    measure(data);
  }
  lease.hear(data);
  for (const listener of listeners) listener(data);
}

/** The levels as they are now. They change many times a second, so they are read, not rendered. */
export const levelOf = (input: number): Level => levels[input] ?? SILENT;

function measure(data: Extract<FromCapture, { kind: "levels" }>) {
  const now = performance.now() / 1000;
  const before = levels;
  levels = before.map((_, i) => {
    const peak = Math.max(...data.columns.map((column) => column.peaks[i] ?? 0));
    const old = before[i];
    const holding = old && now - (heldSince[i] ?? 0) < HOLD_S && old.held > peak;
    if (!holding) heldSince[i] = now;
    return {
      peak,
      held: holding ? old.held : peak,
      clipped: peak >= 0.999 || Boolean(holding && old.clipped),
    };
  });
}

function gone(index: number) {
  lost = true;
  const name = get().inputs[index]?.name ?? "The microphone";
  set({ trouble: `${name} went away. Plug it in, or choose another.` });
  whenGone(name);
}

export interface Listened {
  samples: Float32Array;
  /** The context's time of the first. */
  time: number;
}

/** Listen for some seconds without recording; resolves with one channel's samples. Rejects with
 * `Displaced` when a recording begins or the microphone is switched off meanwhile. */
export function listen(channel: number, seconds: number): Promise<Listened> {
  return new Promise((resolve, reject) => {
    if (get().phase !== "on") return reject(new Problem("Switch the microphone on first.", 0));
    const wanted = Math.round(seconds * RATE);
    const samples = new Float32Array(wanted);
    let had = 0;
    let time = 0;
    const holder: Holder = {
      purpose: "trial",
      channels: [channel],
      at: 0,
      onPiece: (piece) => {
        if (had === 0) time = piece.time;
        samples.set(piece.data.subarray(0, wanted - had), had);
        had = Math.min(wanted, had + piece.data.length);
        if (had === wanted) void lease.stop(holder);
      },
      onStopped: () => resolve({ samples: samples.subarray(0, had), time }),
      onDisplaced: reject,
    };
    lease.start(holder);
  });
}

/** Microphones, real and simulated: finding them, opening them, and saying what went wrong. */
import { client, Problem, take } from "../api/client";
import { speakers } from "../playback/audio";

export interface Device {
  id: string;
  name: string;
}

/** What the browser may do to a voice. All of it is off unless the host asks. */
export interface Treatment {
  echoCancellation: boolean;
  noiseSuppression: boolean;
  autoGainControl: boolean;
}

export const UNTREATED: Treatment = {
  echoCancellation: false,
  noiseSuppression: false,
  autoGainControl: false,
};

let simulated: Promise<Device[]> | null = null;

/** The demo's microphones; elsewhere there are none. */
const listSimulated = () => {
  simulated ??= take(client.GET("/api/standins/microphones")).catch(() => {
    simulated = null; // the server did not answer: ask again next time
    return [];
  });
  return simulated;
};

const UNPLUGGED_AFTER_MS = 5000;
/** From the simulated loudspeaker to the microphone that hears it. */
const LOOP_DELAY_S = 0.09;

const devicesOf = async (kind: MediaDeviceKind, word: string): Promise<Device[]> =>
  ((await navigator.mediaDevices?.enumerateDevices()) ?? [])
    .filter((d) => d.kind === kind && d.deviceId !== "")
    .map((d, i) => ({ id: d.deviceId, name: d.label || `${word} ${i + 1}` }));

/** Real microphones first, then simulated ones. Names are known once permission was given. */
export const listDevices = async (): Promise<Device[]> => [
  ...(await devicesOf("audioinput", "Microphone")),
  ...(await listSimulated()),
];

export const listOutputs = () => devicesOf("audiooutput", "Output");

/** The gain of a device that has one, in its own measure. */
export interface DeviceGain {
  least: number;
  most: number;
  value: number;
  set: (value: number) => void;
}

export interface Opened {
  node: AudioNode;
  name: string;
  channels: number;
  /** From the voice to the context, as far as the browser knows, in seconds. */
  latency: number;
  gain: DeviceGain | null;
  close: () => void;
}

/** Open a device ("" is the system default); `onGone` is called if it goes away. */
export async function openDevice(
  context: AudioContext,
  id: string,
  treatment: Treatment,
  onGone: () => void,
): Promise<Opened> {
  return id.startsWith("sim:")
    ? openSimulated(context, id, onGone)
    : openReal(context, id, treatment, onGone);
}

/** What some browsers know of a track beyond the standard's types. */
interface Range {
  min?: number;
  max?: number;
}
interface Known {
  volume?: number & Range;
  latency?: number;
  channelCount?: number & Range;
}

async function openReal(
  context: AudioContext,
  id: string,
  treatment: Treatment,
  onGone: () => void,
): Promise<Opened> {
  if (!navigator.mediaDevices) {
    throw new Problem(
      "This browser gives no access to microphones on this address. It has to be this machine’s own, or begin with https.",
      0,
    );
  }
  const stream = await navigator.mediaDevices
    .getUserMedia({
      audio: {
        deviceId: id ? { exact: id } : undefined,
        channelCount: { ideal: 8 },
        ...treatment,
      },
    })
    .catch((error: DOMException) => {
      throw new Problem(REASONS[error.name] ?? `The microphone did not open: ${error.message}`, 0);
    });
  const track = stream.getAudioTracks()[0];
  if (!track) throw new Problem("That device gives no sound.", 0);
  track.addEventListener("ended", onGone);
  const node = new MediaStreamAudioSourceNode(context, { mediaStream: stream });
  const set = track.getSettings() as Known;
  return {
    node,
    name: track.label || "Microphone",
    channels: set.channelCount ?? 1,
    latency: set.latency ?? 0,
    gain: gainOf(track),
    close: () => {
      track.removeEventListener("ended", onGone);
      node.disconnect();
      track.stop();
    },
  };
}

function gainOf(track: MediaStreamTrack): DeviceGain | null {
  const range = (track.getCapabilities?.() as Known | undefined)?.volume;
  if (!range || range.max === undefined || range.min === undefined) return null;
  const now = (track.getSettings() as Known).volume ?? range.max;
  return {
    least: range.min,
    most: range.max,
    value: now,
    set: (volume) =>
      void track.applyConstraints({ advanced: [{ volume } as MediaTrackConstraintSet] }),
  };
}

const REASONS: Record<string, string> = {
  NotAllowedError:
    "The browser was not allowed to use the microphone. Allow it beside the address, then try again.",
  NotFoundError: "No microphone was found. Plug one in, or choose another.",
  OverconstrainedError: "That microphone is not plugged in. Plug it in, or choose another.",
  NotReadableError: "Another program holds that microphone. Close it there, then try again.",
};

async function openSimulated(
  context: AudioContext,
  id: string,
  onGone: () => void,
): Promise<Opened> {
  const knob = new GainNode(context);
  const name =
    (await listSimulated()).find((device) => device.id === id)?.name ?? "Simulated microphone";
  const opened = {
    node: knob,
    name,
    channels: id.startsWith("sim:both") ? 2 : 1,
    latency: 0,
    gain: {
      least: 0,
      most: 4,
      value: 1,
      set: (value: number) => {
        knob.gain.value = value;
      },
    },
  };
  if (id === "sim:loop") {
    const delay = new DelayNode(context, { delayTime: LOOP_DELAY_S });
    const air = new GainNode(context, { gain: 0.5 });
    speakers().connect(delay).connect(air).connect(knob);
    return {
      ...opened,
      close: () => {
        speakers().disconnect(delay);
        air.disconnect();
        knob.disconnect();
      },
    };
  }
  const [, voice = "voice", said = "none"] = id.split(":");
  const fault = said === "unplugged" ? "none" : said;
  const answer = await fetch(`/api/standins/microphone?voice=${voice}&fault=${fault}`);
  if (!answer.ok) throw new Problem("The simulated microphone did not answer.", answer.status);
  const buffer = await context.decodeAudioData(await answer.arrayBuffer());
  const player = new AudioBufferSourceNode(context, { buffer, loop: true });
  player.connect(knob);
  player.start();
  const unplug = () => {
    player.stop();
    onGone();
  };
  const timer = said === "unplugged" ? setTimeout(unplug, UNPLUGGED_AFTER_MS) : 0;
  return {
    ...opened,
    close: () => {
      clearTimeout(timer);
      player.disconnect();
      knob.disconnect();
    },
  };
}

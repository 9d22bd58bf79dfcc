/** Microphones, real and simulated: finding them, opening them, and saying what went wrong. */
import { Problem, RATE } from "../api/client";

export interface Device {
  id: string;
  name: string;
}

const SIMULATED: Device[] = [
  { id: "sim:voice:none", name: "Simulated microphone" },
  { id: "sim:second:none", name: "Simulated second voice" },
  { id: "sim:voice:quiet", name: "Simulated: too quiet" },
  { id: "sim:voice:clipping", name: "Simulated: far too loud" },
  { id: "sim:voice:hum", name: "Simulated: with mains hum" },
  { id: "sim:voice:noise", name: "Simulated: noisy room" },
  { id: "sim:voice:unplugged", name: "Simulated: unplugged after 5 s" },
];
const UNPLUGGED_AFTER_MS = 5000;

/** Real microphones first, then simulated ones. Names are there once permission was given. */
export async function listDevices(): Promise<Device[]> {
  const found = (await navigator.mediaDevices?.enumerateDevices()) ?? [];
  const real = found
    .filter((d) => d.kind === "audioinput" && d.deviceId !== "")
    .map((d, i) => ({ id: d.deviceId, name: d.label || `Microphone ${i + 1}` }));
  return [...real, ...SIMULATED];
}

export interface Opened {
  node: AudioNode;
  name: string;
  close: () => void;
}

/** Open a microphone ("" is the machine's own choice); `onGone` is called if it goes away. */
export async function openDevice(
  context: AudioContext,
  id: string,
  onGone: () => void,
): Promise<Opened> {
  return id.startsWith("sim:") ? openSimulated(context, id, onGone) : openReal(context, id, onGone);
}

async function openReal(context: AudioContext, id: string, onGone: () => void): Promise<Opened> {
  if (!navigator.mediaDevices) {
    throw new Problem("This browser gives no access to microphones on this address.", 0);
  }
  const stream = await navigator.mediaDevices
    .getUserMedia({
      audio: {
        deviceId: id ? { exact: id } : undefined,
        // What the browser would do to the voice stays off.
        echoCancellation: false,
        noiseSuppression: false,
        autoGainControl: false,
        channelCount: 1,
      },
    })
    .catch((error: DOMException) => {
      throw new Problem(REASONS[error.name] ?? `The microphone did not open: ${error.message}`, 0);
    });
  const track = stream.getAudioTracks()[0];
  if (!track) throw new Problem("That device gives no sound.", 0);
  track.addEventListener("ended", onGone);
  const node = new MediaStreamAudioSourceNode(context, { mediaStream: stream });
  return {
    node,
    name: track.label || "Microphone",
    close: () => {
      track.removeEventListener("ended", onGone);
      node.disconnect();
      track.stop();
    },
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
  const [, voice = "voice", said = "none"] = id.split(":");
  const fault = said === "unplugged" ? "none" : said;
  const answer = await fetch(`/api/standins/microphone?voice=${voice}&fault=${fault}`);
  if (!answer.ok) throw new Problem("The simulated microphone did not answer.", answer.status);
  const buffer = await context.decodeAudioData(await answer.arrayBuffer());
  const node = new AudioBufferSourceNode(context, { buffer, loop: true });
  node.start();
  const unplug = () => {
    node.stop();
    onGone();
  };
  const timer = said === "unplugged" ? setTimeout(unplug, UNPLUGGED_AFTER_MS) : 0;
  return {
    node,
    name: SIMULATED.find((d) => d.id === id)?.name ?? "Simulated microphone",
    close: () => {
      clearTimeout(timer);
      node.disconnect();
    },
  };
}

export const openContext = () => new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });

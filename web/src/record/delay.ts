/** The delay from loudspeaker to recording: measured with sweeps, kept for this browser. */
import { create } from "zustand";
import { RATE, type Schemas, takeBytes } from "../api/client";
import { audio, speakers } from "../playback/audio";
import { listen } from "./capture";

const KEY = "airtrim-delay";

export const useDelay = create<{ frames: number | null }>(() => ({
  frames: Number(localStorage.getItem(KEY)) || null,
}));

/** Frames to leave out; 0 where it has not been measured. */
export const measuredDelay = () => useDelay.getState().frames ?? 0;

/** Play the sweeps, record them through a microphone, and have the delay found. */
export async function measureDelay(channel: number): Promise<number> {
  const context = audio();
  const answer = await fetch("/api/delay/probe");
  const buffer = await context.decodeAudioData(await answer.arrayBuffer());
  const listening = listen(channel, buffer.duration + 1);
  const sweeps = new AudioBufferSourceNode(context, { buffer });
  sweeps.connect(speakers());
  const began = context.currentTime + 0.25;
  sweeps.start(began);
  const { samples, time } = await listening.finally(() => sweeps.disconnect());
  const from = Math.max(0, Math.round((began - time) * RATE));
  const sound = samples.slice(from);
  const { frames } = await takeBytes<Schemas["Delay"]>("POST", "/api/delay", sound);
  localStorage.setItem(KEY, String(frames));
  useDelay.setState({ frames });
  return frames;
}

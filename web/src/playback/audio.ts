/**
 * The one audio context of the page: player, microphones and call share its clock. All that is to be
 * heard goes through its bus.
 */
import { Problem, RATE } from "../api/client";

let context: AudioContext | null = null;
let bus: GainNode | null = null;

export function audio(): AudioContext {
  context ??= new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
  return context;
}

/** Where everything goes that is to be heard. */
export function speakers(): GainNode {
  if (!bus) {
    bus = new GainNode(audio());
    bus.connect(audio().destination);
  }
  return bus;
}

/** The context when it runs; a Problem where this browser cannot record with it. */
export async function runningAudio(): Promise<AudioContext> {
  const it = audio();
  await it.resume();
  if (it.sampleRate !== RATE) {
    throw new Problem(
      `This browser runs sound at ${it.sampleRate} Hz and does not convert it. Recording needs ${RATE} Hz: choose another sound device, or another browser.`,
      0,
    );
  }
  return it;
}

interface WithSink {
  setSinkId?: (id: string) => Promise<void>;
}

export const canChooseOutput = () => "setSinkId" in AudioContext.prototype;

/** Send everything to an output device ("" is the system default). */
export async function setOutput(id: string): Promise<void> {
  await (audio() as WithSink).setSinkId?.(id).catch(() => {
    throw new Problem("That output is not plugged in. Sound goes where it went before.", 0);
  });
}

/** The real capture worklet on a simulated audio thread, joined to a lease by two message queues. */
import type { FromCapture, ToCapture } from "../src/record/capture.worklet";
import { CaptureLease } from "../src/record/lease";

const QUANTUM = 128;

interface Processor {
  port: { onmessage: (event: { data: ToCapture }) => void };
  process: (inputs: Float32Array[][]) => boolean;
}
type Constructor = new (options: { processorOptions: { channels: number } }) => Processor;

let Registered: Constructor;

export async function loadWorklet(): Promise<void> {
  Object.assign(globalThis, {
    sampleRate: 48_000,
    currentTime: 0,
    AudioWorkletProcessor: class {
      port = { onmessage: null, postMessage: (data: FromCapture) => outgoing.push(data) };
    },
    registerProcessor: (_: string, made: Constructor) => {
      Registered = made;
    },
  });
  await import("../src/record/capture.worklet");
}

let outgoing: FromCapture[] = [];

/** One microphone of one channel. Sample number n of it has the value n. */
export class AudioThread {
  private readonly incoming: ToCapture[] = [];
  private readonly processor: Processor;
  readonly lease: CaptureLease;
  /** Frames that the microphone has given so far. */
  frame = 0;

  constructor() {
    outgoing = [];
    this.processor = new Registered({ processorOptions: { channels: 1 } });
    this.lease = new CaptureLease((message) => this.incoming.push(message));
  }

  /** Let the audio thread read its messages. */
  read(): void {
    for (const data of this.incoming.splice(0)) this.processor.port.onmessage({ data });
  }

  render(quanta: number): void {
    for (let i = 0; i < quanta; i++) {
      const input = Float32Array.from({ length: QUANTUM }, (_, k) => this.frame + k);
      this.processor.process([[input]]);
      this.frame += QUANTUM;
    }
  }

  /** Let the page read its messages. */
  deliver(): void {
    for (const data of outgoing.splice(0)) this.lease.hear(data);
  }
}

/**
 * Runs on the audio thread: gathers what the microphones give into pieces, channels side by side,
 * and tells levels all the time. Every frame that is recorded leaves here exactly once.
 */
declare const currentTime: number;
declare function registerProcessor(name: string, made: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

/** A quarter of a second, in whole render quanta. */
const PIECE_FRAMES = 12_032;
/** How often levels are told: about 23 times a second. */
const LEVEL_FRAMES = 2_048;

export type ToCapture = { kind: "run"; on: boolean; at?: number } | { kind: "flag" };

export type FromCapture =
  | { kind: "piece"; start: number; data: Float32Array }
  | { kind: "levels"; peaks: number[]; rms: number[]; frames: number; time: number }
  | { kind: "flag"; at: number }
  | { kind: "held"; frames: number };

class Capture extends AudioWorkletProcessor {
  private channels: number;
  private on = false;
  /** Frames recorded so far, and the first frame of the piece being filled. */
  private frames = 0;
  private pieceStart = 0;
  private piece: Float32Array;
  private filled = 0;
  private peaks: number[];
  private squares: number[];
  private measured = 0;

  constructor(options: { processorOptions: { channels: number } }) {
    super();
    this.channels = options.processorOptions.channels;
    this.piece = new Float32Array(PIECE_FRAMES * this.channels);
    this.peaks = new Array(this.channels).fill(0);
    this.squares = new Array(this.channels).fill(0);
    this.port.onmessage = ({ data }: MessageEvent<ToCapture>) => {
      if (data.kind === "flag") this.say({ kind: "flag", at: this.frames });
      else this.run(data.on, data.at);
    };
  }

  private say(message: FromCapture, transfer: Transferable[] = []) {
    this.port.postMessage(message, transfer);
  }

  private run(on: boolean, at?: number) {
    if (on && at !== undefined) {
      this.frames = at;
      this.pieceStart = at;
    }
    this.on = on;
    if (!on) {
      this.send();
      this.say({ kind: "held", frames: this.frames });
    }
  }

  private send() {
    if (this.filled === 0) return;
    const data = this.piece.slice(0, this.filled * this.channels);
    this.say({ kind: "piece", start: this.pieceStart, data }, [data.buffer]);
    this.pieceStart += this.filled;
    this.filled = 0;
  }

  process(inputs: Float32Array[][]): boolean {
    const input = inputs[0] ?? [];
    const count = input[0]?.length ?? 128;
    for (let c = 0; c < this.channels; c++) {
      const samples = input[c];
      let peak = this.peaks[c] ?? 0;
      let square = this.squares[c] ?? 0;
      for (let i = 0; i < count; i++) {
        const value = samples?.[i] ?? 0;
        if (Math.abs(value) > peak) peak = Math.abs(value);
        square += value * value;
        if (this.on) this.piece[(this.filled + i) * this.channels + c] = value;
      }
      this.peaks[c] = peak;
      this.squares[c] = square;
    }
    if (this.on) {
      this.filled += count;
      this.frames += count;
      if (this.filled + count > PIECE_FRAMES) this.send();
    }
    this.measured += count;
    if (this.measured >= LEVEL_FRAMES) {
      const rms = this.squares.map((s) => Math.sqrt(s / this.measured));
      this.say({ kind: "levels", peaks: this.peaks, rms, frames: this.frames, time: currentTime });
      this.peaks = new Array(this.channels).fill(0);
      this.squares = new Array(this.channels).fill(0);
      this.measured = 0;
    }
    return true;
  }
}

registerProcessor("capture", Capture);

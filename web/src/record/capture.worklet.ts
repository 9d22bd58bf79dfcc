/**
 * Runs on the audio thread: gathers what the microphones give into pieces, channels side by side,
 * and tells levels all the time. Every frame that is recorded leaves here exactly once.
 */
declare const currentTime: number;
declare const sampleRate: number;
declare function registerProcessor(name: string, made: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

/** Just under half a second, in whole render quanta. */
const PIECE_FRAMES = 23_936;
/** What one column of the picture covers, and how many are told at once: six times a second,
 * since every message costs the page's own thread something. */
const COLUMN_FRAMES = 2_048;
const COLUMNS = 4;

export type ToCapture =
  /** Record these channels, the first frame being number `at`; or stop. */
  | { kind: "run"; on: true; at: number; channels: number[] }
  | { kind: "run"; on: false }
  /** Say which frame was recorded at the context's `time`; `ask` comes back with it. */
  | { kind: "moment"; ask: number; time: number };

/** Peak and RMS of each input, up to frame `frame` of the recording. */
export interface Column {
  frame: number;
  peaks: number[];
  rms: number[];
}

export type FromCapture =
  /** `time`: the context's when its first frame came in. */
  | { kind: "piece"; start: number; data: Float32Array; time: number }
  | { kind: "levels"; columns: Column[]; recorded: boolean; frames: number; time: number }
  | { kind: "moment"; at: number; ask: number }
  | { kind: "held"; frames: number };

class Capture extends AudioWorkletProcessor {
  private inputs: number;
  /** The channels that are recorded; none while nothing is. */
  private channels: number[] = [];
  /** Frames recorded so far, and the first frame of the piece being filled. */
  private frames = 0;
  private pieceStart = 0;
  private pieceTime = 0;
  private piece = new Float32Array(0);
  private filled = 0;
  private peaks: number[];
  private squares: number[];
  private measured = 0;
  private columns: Column[] = [];

  constructor(options: { processorOptions: { channels: number } }) {
    super();
    this.inputs = options.processorOptions.channels;
    this.peaks = new Array(this.inputs).fill(0);
    this.squares = new Array(this.inputs).fill(0);
    this.port.onmessage = ({ data }: MessageEvent<ToCapture>) => {
      if (data.kind === "moment") this.tellMoment(data.ask, data.time);
      else if (data.on) this.run(data.at, data.channels);
      else this.hold();
    };
  }

  private say(message: FromCapture, transfer: Transferable[] = []) {
    this.port.postMessage(message, transfer);
  }

  private run(at: number, channels: number[]) {
    this.frames = at;
    this.pieceStart = at;
    this.channels = channels;
    // What was measured before it is not of this recording.
    this.columns = [];
    this.piece = new Float32Array(PIECE_FRAMES * channels.length);
  }

  /** The message may have waited while the page or this thread was busy. */
  private tellMoment(ask: number, time: number) {
    const waited = this.channels.length ? Math.max(0, currentTime - time) : 0;
    const at = Math.max(0, this.frames - Math.round(waited * sampleRate));
    this.say({ kind: "moment", at, ask });
  }

  private hold() {
    this.send();
    this.channels = [];
    this.say({ kind: "held", frames: this.frames });
  }

  private send() {
    if (this.filled === 0) return;
    const data = this.piece.slice(0, this.filled * this.channels.length);
    const { pieceStart: start, pieceTime: time } = this;
    this.say({ kind: "piece", start, data, time }, [data.buffer]);
    this.pieceStart += this.filled;
    this.filled = 0;
  }

  private measure(input: Float32Array[], count: number) {
    for (let c = 0; c < this.inputs; c++) {
      const samples = input[c];
      let peak = this.peaks[c] ?? 0;
      let square = this.squares[c] ?? 0;
      for (let i = 0; i < count; i++) {
        const value = samples?.[i] ?? 0;
        if (Math.abs(value) > peak) peak = Math.abs(value);
        square += value * value;
      }
      this.peaks[c] = peak;
      this.squares[c] = square;
    }
    this.measured += count;
    if (this.measured < COLUMN_FRAMES) return;
    const rms = this.squares.map((s) => Math.sqrt(s / this.measured));
    this.columns.push({ frame: this.frames, peaks: this.peaks, rms });
    this.peaks = new Array(this.inputs).fill(0);
    this.squares = new Array(this.inputs).fill(0);
    this.measured = 0;
    if (this.columns.length < COLUMNS) return;
    const { columns, frames } = this;
    const recorded = this.channels.length > 0;
    this.say({ kind: "levels", columns, recorded, frames, time: currentTime });
    this.columns = [];
  }

  process(inputs: Float32Array[][]): boolean {
    const input = inputs[0] ?? [];
    const count = input[0]?.length ?? 128;
    const width = this.channels.length;
    if (width) {
      if (this.filled === 0) this.pieceTime = currentTime;
      for (let k = 0; k < width; k++) {
        const samples = input[this.channels[k] ?? 0];
        for (let i = 0; i < count; i++) {
          this.piece[(this.filled + i) * width + k] = samples?.[i] ?? 0;
        }
      }
      this.filled += count;
      this.frames += count;
      if (this.filled + count > PIECE_FRAMES) this.send();
    }
    this.measure(input, count);
    return true;
  }
}

registerProcessor("capture", Capture);

/**
 * Runs on the audio thread. It collects the samples of the microphones in pieces, with the channels
 * interleaved, and reports levels all the time. One run at a time records; each message of a run
 * carries its number. A run delivers every frame exactly once.
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
  /** Start run number `run`: record these channels; the first frame is number `at`. */
  | { kind: "start"; run: number; at: number; channels: number[] }
  /** Stop run number `run`; a message for another run changes nothing. */
  | { kind: "stop"; run: number }
  /** Report which frame was recorded at the context's `time`; the answer carries `ask`. */
  | { kind: "moment"; ask: number; time: number };

/** Peak and RMS of each input, up to frame `frame` of the recording. */
export interface Column {
  frame: number;
  peaks: number[];
  rms: number[];
}

export type FromCapture =
  /** `time`: the context's time of its first frame. */
  | { kind: "piece"; run: number; start: number; data: Float32Array; time: number }
  /** `run`: the run that is recording, 0 while none is. */
  | { kind: "levels"; run: number; columns: Column[]; frames: number; time: number }
  | { kind: "moment"; at: number; ask: number }
  /** The run has delivered its last piece. */
  | { kind: "stopped"; run: number; frames: number };

class Capture extends AudioWorkletProcessor {
  private inputs: number;
  /** The number of the run that is recording, 0 while none is, and its channels. */
  private run = 0;
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
      if (data.kind === "moment") this.answerMoment(data.ask, data.time);
      else if (data.kind === "start") this.start(data.run, data.at, data.channels);
      else if (data.run === this.run) this.stop();
    };
  }

  private say(message: FromCapture, transfer: Transferable[] = []) {
    this.port.postMessage(message, transfer);
  }

  private start(run: number, at: number, channels: number[]) {
    this.run = run;
    this.frames = at;
    this.pieceStart = at;
    this.channels = channels;
    // Samples and levels of an earlier run do not belong to this one.
    this.filled = 0;
    this.columns = [];
    this.piece = new Float32Array(PIECE_FRAMES * channels.length);
  }

  /** The message may have waited while the page or this thread was busy. */
  private answerMoment(ask: number, time: number) {
    const waited = this.channels.length ? Math.max(0, currentTime - time) : 0;
    const at = Math.max(0, this.frames - Math.round(waited * sampleRate));
    this.say({ kind: "moment", at, ask });
  }

  private stop() {
    this.send();
    const { run, frames } = this;
    this.run = 0;
    this.channels = [];
    this.say({ kind: "stopped", run, frames });
  }

  private send() {
    if (this.filled === 0) return;
    const data = this.piece.slice(0, this.filled * this.channels.length);
    const { run, pieceStart: start, pieceTime: time } = this;
    this.say({ kind: "piece", run, start, data, time }, [data.buffer]);
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
    const { run, columns, frames } = this;
    this.say({ kind: "levels", run, columns, frames, time: currentTime });
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

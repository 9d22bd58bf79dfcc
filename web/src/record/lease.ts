/**
 * The capture lease: who records through the worklet. One holder at a time. A recording ends a trial;
 * a trial never ends a recording. Every run reports its end to its holder, whatever ends it.
 */
import { Problem } from "../api/client";
import type { FromCapture, ToCapture } from "./capture.worklet";

export type Purpose = "recording" | "trial";
export type Piece = Extract<FromCapture, { kind: "piece" }>;

/** A run ended because something else needed the microphone. */
export class Displaced extends Problem {
  constructor(sentence: string) {
    super(sentence, 0);
  }
}

export interface Holder {
  purpose: Purpose;
  channels: number[];
  /** The number of its first frame. */
  at: number;
  onPiece: (piece: Piece) => void;
  /** All pieces have arrived; `frames`: the number of the next frame. */
  onStopped: (frames: number) => void;
  /** The run ended although its holder did not stop it. */
  onDisplaced: (reason: Displaced) => void;
}

/** A context that the browser has suspended does not answer. */
const ANSWER_MS = 1500;

export class CaptureLease {
  private last = 0;
  private holder: Holder | null = null;
  private stopped: (() => void) | null = null;
  private active = false;

  /** `post` sends a message to the worklet, or drops it where there is none. */
  constructor(private readonly post: (message: ToCapture) => void) {}

  /** The number of the run in progress, 0 while there is none. */
  get run(): number {
    return this.active ? this.last : 0;
  }

  /** Start a run. Raises a Problem while a recording holds the microphone. */
  start(holder: Holder): void {
    if (this.active && this.holder?.purpose === "recording") {
      throw new Problem(
        "This microphone is being recorded. Try it when the recording has ended.",
        0,
      );
    }
    this.displace(
      holder.purpose === "recording"
        ? "The trial ended because the recording began."
        : "Another trial of the microphone began.",
    );
    this.last += 1;
    this.holder = holder;
    this.active = true;
    this.post({ kind: "start", run: this.last, at: holder.at, channels: holder.channels });
  }

  /** Stop the run of `holder`; resolves when its last piece has arrived, or cannot arrive any more. */
  async stop(holder: Holder): Promise<void> {
    if (!this.active || this.holder !== holder) return;
    const answer = new Promise<void>((resolve) => {
      this.stopped = resolve;
      setTimeout(resolve, ANSWER_MS);
    });
    this.post({ kind: "stop", run: this.last });
    await answer;
    if (this.holder === holder) this.active = false;
  }

  /** End the run in progress, because the microphones are closed or needed for something else. */
  displace(sentence: string): void {
    if (!this.active) return;
    const { holder } = this;
    this.post({ kind: "stop", run: this.last });
    this.active = false;
    this.holder = null;
    this.stopped?.();
    holder?.onDisplaced(new Displaced(sentence));
  }

  /** Pass a message of the worklet to the holder of its run. Messages of an earlier run are dropped. */
  hear(data: FromCapture): void {
    if ((data.kind !== "piece" && data.kind !== "stopped") || data.run !== this.last) return;
    if (data.kind === "piece") this.holder?.onPiece(data);
    else {
      this.active = false;
      this.holder?.onStopped(data.frames);
      this.stopped?.();
      this.stopped = null;
    }
  }
}

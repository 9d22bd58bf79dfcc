/**
 * Sound faster or slower at the same pitch: waveform similarity overlap-add (Verhelst and Roelands,
 * 1993). Pieces go in one after another and come out as one stream.
 */
const WINDOW = 1440;
const HOP = WINDOW / 2;
const REACH = 480;
const COARSE = 4;

const FADE = Float32Array.from(
  { length: HOP },
  (_, i) => 0.5 - 0.5 * Math.cos((Math.PI * (i + 0.5)) / HOP),
);

export class Stretch {
  private input: Float32Array[];
  /** Frame of the stream at which `input` begins. */
  private base = 0;
  private tail: Float32Array[];
  private step = 0;
  private last = 0;

  constructor(
    private readonly channels: number,
    private readonly speed: number,
  ) {
    this.input = Array.from({ length: channels }, () => new Float32Array(0));
    this.tail = Array.from({ length: channels }, () => new Float32Array(HOP));
  }

  /** The next piece in, a Float32Array a channel; what is ready of the result. */
  push(piece: Float32Array[]): Float32Array[] {
    this.input = this.input.map((old, c) => {
      const more = piece[c] ?? new Float32Array(0);
      const joined = new Float32Array(old.length + more.length);
      joined.set(old);
      joined.set(more, old.length);
      return joined;
    });
    return this.made();
  }

  /** The end: what was still waiting, run out into silence. */
  flush(): Float32Array[] {
    return this.push(Array.from({ length: this.channels }, () => new Float32Array(2 * WINDOW)));
  }

  private made(): Float32Array[] {
    const out: Float32Array[][] = Array.from({ length: this.channels }, () => []);
    const end = this.base + (this.input[0]?.length ?? 0);
    for (;;) {
      const target = Math.round(this.step * HOP * this.speed);
      if (target + REACH + WINDOW > end) break;
      const at = this.step === 0 ? 0 : this.alike(target, this.last + HOP);
      for (let c = 0; c < this.channels; c++) {
        const from = at - this.base;
        const segment = this.input[c]?.subarray(from, from + WINDOW) ?? new Float32Array(WINDOW);
        const tail = this.tail[c] ?? new Float32Array(HOP);
        const part = new Float32Array(HOP);
        for (let i = 0; i < HOP; i++) {
          const rise = this.step === 0 ? 1 : (FADE[i] ?? 1);
          part[i] = (segment[i] ?? 0) * rise + (tail[i] ?? 0) * (1 - rise);
        }
        tail.set(segment.subarray(HOP, WINDOW));
        out[c]?.push(part);
      }
      this.last = at;
      this.step += 1;
      this.forget(Math.min(this.last + HOP, Math.round(this.step * HOP * this.speed)) - REACH);
    }
    return out.map((parts) => {
      const whole = new Float32Array(parts.length * HOP);
      parts.forEach((part, i) => {
        whole.set(part, i * HOP);
      });
      return whole;
    });
  }

  /** Where near `target` the sound goes on most like at `natural`. */
  private alike(target: number, natural: number): number {
    const sound = this.input[0] ?? new Float32Array(0);
    const low = Math.max(this.base, target - REACH);
    const search = (from: number, to: number, stride: number) => {
      let best = from;
      let most = Number.NEGATIVE_INFINITY;
      for (let at = from; at <= to; at += stride) {
        let sum = 0;
        let energy = 1e-9;
        for (let i = 0; i < HOP; i += COARSE) {
          const value = sound[at - this.base + i] ?? 0;
          sum += value * (sound[natural - this.base + i] ?? 0);
          energy += value * value;
        }
        const score = sum / Math.sqrt(energy);
        if (score > most) {
          most = score;
          best = at;
        }
      }
      return best;
    };
    const near = search(low, target + REACH, COARSE);
    return search(Math.max(low, near - COARSE), Math.min(target + REACH, near + COARSE), 1);
  }

  private forget(before: number) {
    const drop = before - this.base;
    if (drop < 48_000) return;
    this.input = this.input.map((sound) => sound.slice(drop));
    this.base = before;
  }
}

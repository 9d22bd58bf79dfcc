import { beforeAll, describe, expect, it, vi } from "vitest";
import { Problem } from "../src/api/client";
import { Displaced, type Holder, type Piece, type Purpose } from "../src/record/lease";
import { AudioThread, loadWorklet } from "./worklet";

beforeAll(loadWorklet);

interface Run extends Holder {
  pieces: Piece[];
  ends: string[];
}

function run(purpose: Purpose, at = 0): Run {
  const made: Run = {
    purpose,
    at,
    channels: [0],
    pieces: [],
    ends: [],
    onPiece: (piece) => made.pieces.push(piece),
    onStopped: () => made.ends.push("stopped"),
    onDisplaced: (reason) => made.ends.push(reason.message),
  };
  return made;
}

const samples = (made: Run) => made.pieces.flatMap((piece) => [...piece.data]);
const consecutive = (values: number[]) =>
  values.every((v, i) => i === 0 || v === (values[i - 1] ?? 0) + 1);

/** Numbers that repeat with their seed (mulberry32, in the public domain). */
function random(seed: number) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

describe("the capture lease", () => {
  it("lets a recording end a trial, and nothing of the trial reaches the recording", async () => {
    const thread = new AudioThread();
    const trial = run("trial");
    thread.lease.start(trial);
    thread.read();
    thread.render(100);
    const recording = run("recording");
    thread.lease.start(recording);
    thread.read();
    const from = thread.frame;
    thread.render(400);
    thread.deliver();
    const stopped = thread.lease.stop(recording);
    thread.read();
    thread.deliver();
    await stopped;
    expect(trial.ends).toEqual(["The trial ended because the recording began."]);
    expect(recording.ends).toEqual(["stopped"]);
    expect(samples(recording)[0]).toBe(from);
    expect(samples(recording)).toHaveLength(400 * 128);
    expect(consecutive(samples(recording))).toBe(true);
  });

  it("refuses a trial while a recording holds it", () => {
    const { lease } = new AudioThread();
    lease.start(run("recording"));
    expect(() => lease.start(run("trial"))).toThrow(Problem);
  });

  it("does not wait for ever for a context that the browser has suspended", async () => {
    vi.useFakeTimers();
    const thread = new AudioThread();
    const recording = run("recording");
    thread.lease.start(recording);
    const stopped = thread.lease.stop(recording);
    await vi.advanceTimersByTimeAsync(2000);
    await stopped;
    expect(thread.lease.run).toBe(0);
    // What the context delivers when it runs again is kept.
    thread.read();
    thread.deliver();
    expect(recording.ends).toEqual(["stopped"]);
    vi.useRealTimers();
  });

  it("keeps recordings whole in 200 random orders of trials, recordings, stops and delays", async () => {
    for (let seed = 1; seed <= 200; seed++) {
      const next = random(seed);
      const thread = new AudioThread();
      const runs: Run[] = [];
      const displaced: Run[] = [];
      let current: Run | null = null;
      for (let step = 0; step < 30; step++) {
        const dice = next();
        if (dice < 0.25) {
          const made = run(next() < 0.5 ? "recording" : "trial");
          try {
            thread.lease.start(made);
            runs.push(made);
            if (current && !current.ends.includes("stopped")) displaced.push(current);
            current = made;
          } catch (error) {
            expect(error).toBeInstanceOf(Problem);
            expect(error).not.toBeInstanceOf(Displaced);
            expect(current?.purpose).toBe("recording");
          }
        } else if (dice < 0.35 && current) void thread.lease.stop(current);
        else if (dice < 0.55) thread.read();
        else if (dice < 0.75) thread.deliver();
        else thread.render(Math.floor(next() * 240));
      }
      if (current) void thread.lease.stop(current);
      thread.read();
      thread.deliver();
      for (const made of runs) {
        expect(made.ends.length, `seed ${seed}: every run ends once`).toBe(1);
        expect(consecutive(samples(made)), `seed ${seed}: no frame twice, none missing`).toBe(true);
        if (made.purpose === "recording") expect(made.ends, `seed ${seed}`).toEqual(["stopped"]);
      }
    }
  }, 60_000);
});

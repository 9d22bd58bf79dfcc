/**
 * Plays the edited result: finished pieces from the server, scheduled back to back.
 * One player for the episode that is open; its position is read, never pushed, so that a moving
 * playhead costs no rendering of components.
 */
import { create } from "zustand";
import { RATE } from "../api/client";

const FIRST_PIECE = 24_000;
const PIECE = 96_000;
const AHEAD_S = 4;
const AROUND = 72_000;

interface State {
  playing: boolean;
  /** Where the playhead stands when it is not moving, in frames. */
  at: number;
  waiting: boolean;
}

export const usePlayer = create<State>(() => ({ playing: false, at: 0, waiting: false }));

let context: AudioContext | null = null;
let output: GainNode | null = null;
let analyser: AnalyserNode | null = null;
let source = { episode: 0, revision: 0, frames: 0 };
let run: { from: number; until: number; began: number; abort: AbortController } | null = null;

/** Say what is to be played; a playing episode goes on from where it is. */
export function open(episode: number, revision: number, frames: number) {
  const changed = episode !== source.episode || revision !== source.revision;
  const other = episode !== source.episode;
  source = { episode, revision, frames };
  if (other) {
    stop();
    usePlayer.setState({ at: 0 });
  } else if (changed && run) {
    play(Math.min(position(), frames));
  }
  if (!run) usePlayer.setState((s) => ({ at: Math.min(s.at, frames) }));
}

/** Where the playhead is now, in frames. */
export function position(): number {
  if (!run || !context) return usePlayer.getState().at;
  const moved = Math.max(0, context.currentTime - run.began) * RATE;
  return Math.min(run.until, Math.round(run.from + moved));
}

/** Peak of what sounds now, 0 to 1. */
export function levelNow(): number {
  if (!analyser || !run) return 0;
  const values = new Float32Array(analyser.fftSize);
  analyser.getFloatTimeDomainData(values);
  return values.reduce((top, value) => Math.max(top, Math.abs(value)), 0);
}

export function place(frame: number) {
  const at = Math.max(0, Math.min(source.frames, Math.round(frame)));
  if (run) play(at);
  else usePlayer.setState({ at });
}

export function toggle() {
  if (run) stop();
  else play(usePlayer.getState().at >= source.frames ? 0 : usePlayer.getState().at);
}

export function stop() {
  if (!run) return;
  const at = position();
  run.abort.abort();
  run = null;
  output?.disconnect();
  usePlayer.setState({ playing: false, waiting: false, at });
}

/** Play from a frame, to the end or to `until`. */
export function play(from: number, until = source.frames) {
  run?.abort.abort();
  output?.disconnect();
  context ??= new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
  analyser ??= new AnalyserNode(context, { fftSize: 2048 });
  analyser.connect(context.destination);
  output = new GainNode(context);
  output.connect(analyser);
  void context.resume();
  const mine = { from, until, began: Number.POSITIVE_INFINITY, abort: new AbortController() };
  run = mine;
  usePlayer.setState({ playing: true, at: from, waiting: true });
  performance.mark("airtrim-play");
  void feed(mine, context, output).catch(() => {
    if (run === mine) stop();
  });
}

/** Play a second and a half to either side of a frame. */
export const playAround = (frame: number) =>
  play(Math.max(0, frame - AROUND), Math.min(source.frames, frame + AROUND));

async function feed(mine: NonNullable<typeof run>, audio: AudioContext, out: GainNode) {
  const { episode, revision } = source;
  let at = mine.from;
  let size = FIRST_PIECE;
  let due = 0;
  while (at < mine.until && run === mine) {
    const frames = Math.min(size, mine.until - at);
    const address = `/api/episodes/${episode}/audio?revision=${revision}&start=${at}&frames=${frames}`;
    const answer = await fetch(address, { signal: mine.abort.signal });
    if (!answer.ok) throw new Error("no sound");
    const piece = await audio.decodeAudioData(await answer.arrayBuffer());
    if (run !== mine) return;
    const soon = audio.currentTime + 0.03;
    if (at === mine.from) {
      mine.began = soon;
      due = soon;
      usePlayer.setState({ waiting: false });
      performance.measure("airtrim-first-sound", "airtrim-play");
    } else if (due < soon) {
      // The network was slower than the sound: the playhead waits with it.
      mine.began += soon - due;
      due = soon;
    }
    const node = new AudioBufferSourceNode(audio, { buffer: piece });
    node.connect(out);
    node.start(due);
    due += piece.duration;
    at += frames;
    size = PIECE;
    while (due - audio.currentTime > AHEAD_S && run === mine) await pause(200);
  }
  while (run === mine && audio.currentTime < due) await pause(40);
  if (run === mine) stop();
}

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

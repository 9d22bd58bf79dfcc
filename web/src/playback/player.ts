/**
 * Plays the edited result: finished pieces from the server, scheduled back to back.
 * One player for the episode that is open; its position is read, never pushed, so that a moving
 * playhead costs no rendering of components.
 */
import { create } from "zustand";
import { changes } from "../api/changes";
import { type Chain, client, RATE, take } from "../api/client";
import { contentOf } from "../api/content";
import { complain } from "../theme/toaster";
import { audio, speakers } from "./audio";
import { Stretch } from "./stretch";

/** From a frame to another. */
interface Span {
  start: number;
  end: number;
}

const FIRST_PIECE = 24_000;
const PIECE = 96_000;
const AHEAD_S = 4;
const AROUND = 72_000;

export const SPEEDS = [0.5, 0.75, 1, 1.25, 1.5, 1.75, 2, 2.5, 3] as const;
const SPEED_KEY = "airtrim-speed";
const CUTS_KEY = "airtrim-play-cuts";

interface State {
  playing: boolean;
  /** Where the playhead stands when it is not moving, in frames. */
  at: number;
  waiting: boolean;
  speed: number;
  /** Whether what was cut is played in its place. */
  playCuts: boolean;
  looping: boolean;
  /** Something is recorded in time with what plays: it is neither stopped, moved nor slowed. */
  held: boolean;
}

export const usePlayer = create<State>(() => ({
  playing: false,
  at: 0,
  waiting: false,
  speed: SPEEDS.find((s) => s === Number(localStorage.getItem(SPEED_KEY))) ?? 1,
  playCuts: localStorage.getItem(CUTS_KEY) === "yes",
  looping: false,
  held: false,
}));

let output: GainNode | null = null;
let analyser: AnalyserNode | null = null;
let source = { episode: 0, revision: 0, frames: 0 };
/** Revision that the frame of the resting playhead belongs to. */
let atRevision = 0;

changes.hold(() => {
  if (run && !run.quiet && !run.loop) return [];
  const { at } = usePlayer.getState();
  return [
    {
      mark: { revision: atRevision, start: at, frames: 0 },
      put: (moved) => {
        if (usePlayer.getState().at !== at) return; // the host moved it
        atRevision = moved?.revision ?? source.revision;
        if (moved && moved.start !== at) usePlayer.setState({ at: moved.start });
      },
    },
  ];
});

/** Revision that `position()` belongs to. */
export const positionRevision = () =>
  run && !run.quiet && !run.loop ? source.revision : atRevision;

/** Where pieces of sound come from. */
type Address = (start: number, frames: number) => string;

/** A piece that was scheduled: when it sounds, how long, and the frames the playhead goes with it. */
interface Sounding {
  when: number;
  seconds: number;
  frame: number;
  frames: number;
}

interface Run {
  from: number;
  until: number;
  /** The context's time at which `from` sounded. */
  began: number;
  abort: AbortController;
  address: Address;
  /** The playhead stays where it is. */
  quiet: boolean;
  loop: boolean;
  cuts: boolean;
  speed: number;
  sounding: Sounding[];
  /** Where it begins the first time, if not at `from`. */
  first?: number | undefined;
}
let run: Run | null = null;

/** Say what is to be played; a playing episode goes on from where it is. */
export function open(episode: number, revision: number, frames: number) {
  const changed = episode !== source.episode || revision !== source.revision;
  const other = episode !== source.episode;
  source = { episode, revision, frames };
  if (other) {
    end();
    atRevision = revision;
    usePlayer.setState({ at: 0 });
  } else if (changed && run && !run.quiet && !usePlayer.getState().held) {
    if (run.loop) loop(run.from, Math.min(run.until, frames), position());
    else play(Math.min(position(), frames));
  }
  if (!run) usePlayer.setState((s) => ({ at: Math.min(s.at, frames) }));
}

/** Where the playhead is now, in frames. */
export function position(): number {
  if (!run || run.quiet) return usePlayer.getState().at;
  const first = run.first ?? run.from;
  const now = audio().currentTime;
  const last = run.sounding.findLast((s) => s.when <= now);
  if (!last) return first;
  const into = Math.min(1, (now - last.when) / Math.max(1e-6, last.seconds));
  return Math.round(last.frame + into * last.frames);
}

/** Peak of what sounds now, 0 to 1. */
export function levelNow(): number {
  if (!analyser || !run) return 0;
  const values = new Float32Array(analyser.fftSize);
  analyser.getFloatTimeDomainData(values);
  return values.reduce((top, value) => Math.max(top, Math.abs(value)), 0);
}

export function place(frame: number, revision = source.revision) {
  const at = Math.max(0, Math.min(source.frames, Math.round(frame)));
  if (run && !run.quiet && !run.loop) play(at);
  else {
    atRevision = revision;
    usePlayer.setState({ at });
  }
}

export function toggle() {
  if (run) stop();
  else play(usePlayer.getState().at >= source.frames ? 0 : usePlayer.getState().at);
}

export function stop() {
  if (isFree()) end();
}

/** Whether the player may be used just now; else says why not. */
function isFree() {
  const { held } = usePlayer.getState();
  if (held) complain(new Error("Other tracks play along. End the recording first."));
  return !held;
}

/** Keep the player for what is recorded in time with what it plays, or let go of it, which ends
 * what plays. */
export function holdPlaying(held: boolean) {
  usePlayer.setState({ held });
  if (!held) end();
}

function end() {
  if (!run) return;
  const moves = !run.quiet && !run.loop;
  const at = moves ? position() : usePlayer.getState().at;
  if (moves) atRevision = source.revision;
  run.abort.abort();
  run = null;
  output?.disconnect();
  usePlayer.setState({ playing: false, waiting: false, looping: false, at });
}

/** When the frame that is being played from sounded, in the context's time; null until it does. */
export const beganAt = () => (run && Number.isFinite(run.began) ? run.began : null);

const pieces = (revision: number, restored?: number): Address => {
  const more = restored === undefined ? listening : `&restored=${restored}`;
  return (start, frames) =>
    `/api/episodes/${source.episode}/audio?revision=${revision}&start=${start}&frames=${frames}${contentOf(revision)}${more}`;
};

/** A track as it would be heard treated otherwise; untouched means as loud as it is over a span. */
interface Listening {
  track: string;
  chain: Chain;
  hear: "treated" | "untouched" | "taken_out";
  start: number;
  frames: number;
}

/** How a track is tried: what is asked of the server besides the place. */
let listening = "";
const AHEAD_OF_CHANGE = 0.15 * RATE;

/** Hear a track treated otherwise than it is set, or as it is set (null). What plays goes on, and
 * changes when the first of the new sound is there. */
export function listen(how: Listening | null) {
  const told = how ? `&listening=${encodeURIComponent(JSON.stringify(how))}` : "";
  if (told === listening) return;
  listening = told;
  const mine = run;
  if (!mine || mine.quiet) return;
  const address = pieces(source.revision);
  const place = position() + AHEAD_OF_CHANGE;
  const at = Math.round(place < mine.until ? place : mine.from);
  // Kept by the browser, so that it is there at once when it is asked for again.
  void fetch(address(at, Math.min(FIRST_PIECE, mine.until - at)))
    .then((answer) => answer.arrayBuffer())
    .then(() => {
      if (run !== mine || told !== listening) return;
      const { from, until, quiet, loop: again, cuts } = mine;
      begin({ from, until, address, quiet, loop: again, cuts, first: at }, mine.speed);
    })
    .catch(complain);
}

/** Play from a frame, to the end or to another frame. */
export function play(from: number, until = source.frames) {
  const cuts = usePlayer.getState().playCuts;
  begin({ from, until, address: pieces(source.revision), quiet: false, loop: false, cuts });
}

/** Play a span again and again; the playhead comes back to where it was. */
export function loop(from: number, until: number, first?: number) {
  if (until - from < 4_800) return;
  usePlayer.setState({ looping: true });
  const address = pieces(source.revision);
  begin({ from, until, address, quiet: false, loop: true, cuts: false, first });
}

/** Play a state of the document before this one, from a frame on. */
export function playRevision(revision: number, from: number) {
  const address = pieces(revision);
  begin({ from, until: from + 600 * RATE, address, quiet: true, loop: false, cuts: false });
}

/** Play a piece of a recording as it was made; the playhead stays where it is. */
export function playTake(takeId: string, start: number, frames: number) {
  const address: Address = (at, count) => `/api/takes/${takeId}/audio?start=${at}&frames=${count}`;
  begin({ from: start, until: start + frames, address, quiet: true, loop: false, cuts: false });
}

/** Play a second and a half to either side of a frame. */
export const playAround = (frame: number) =>
  play(Math.max(0, frame - AROUND), Math.min(source.frames, frame + AROUND));

/** Play a second and a half to either side of a cut as if it had been put back. */
export function playRestored(cut: { cut: number; at: number; frames: number }) {
  const from = Math.max(0, cut.at - AROUND);
  const until = Math.min(source.frames + cut.frames, cut.at + cut.frames + AROUND);
  const address = pieces(source.revision, cut.cut);
  begin({ from, until, address, quiet: true, loop: false, cuts: false });
}

/** Play as it would be if a snag were settled, from a frame to another of what is there now. */
export function playSettled(snag: { id: string; do: string; attempt: number }, span: Span) {
  const { id, attempt } = snag;
  const settled = `&snag=${encodeURIComponent(id)}&do=${snag.do}&attempt=${attempt}`;
  const now = pieces(source.revision);
  const address: Address = (start, frames) => now(start, frames) + settled;
  const from = Math.max(0, span.start - AROUND);
  begin({ from, until: span.end + AROUND, address, quiet: true, loop: false, cuts: false });
}

export function setSpeed(speed: number) {
  if (!isFree()) return;
  localStorage.setItem(SPEED_KEY, String(speed));
  usePlayer.setState({ speed });
  if (run && !run.quiet) {
    if (run.loop) loop(run.from, run.until);
    else play(position());
  }
}

export function setPlayCuts(playCuts: boolean) {
  if (!isFree()) return;
  localStorage.setItem(CUTS_KEY, playCuts ? "yes" : "no");
  usePlayer.setState({ playCuts });
  if (run && !run.quiet && !run.loop) play(position());
}

/** Play as it is, at its own speed, for what is recorded beside it. */
export function playAlong(from: number, until = source.frames) {
  const address = pieces(source.revision);
  start({ from, until, address, quiet: false, loop: false, cuts: false }, 1);
}

type Asked = Pick<Run, "from" | "until" | "address" | "quiet" | "loop" | "cuts" | "first">;

function begin(what: Asked, speed = usePlayer.getState().speed) {
  if (isFree()) start(what, speed);
}

function start(what: Asked, speed: number) {
  run?.abort.abort();
  output?.disconnect();
  const context = audio();
  analyser ??= new AnalyserNode(context, { fftSize: 2048 });
  analyser.connect(speakers());
  output = new GainNode(context);
  output.connect(analyser);
  void context.resume();
  const mine: Run = {
    ...what,
    began: Number.POSITIVE_INFINITY,
    abort: new AbortController(),
    speed,
    sounding: [],
  };
  run = mine;
  const still = mine.quiet || mine.loop;
  usePlayer.setState((s) => ({
    playing: true,
    at: still ? s.at : (mine.first ?? mine.from),
    waiting: true,
    looping: mine.loop,
  }));
  performance.mark("airtrim-play");
  void feed(mine, context, output).catch((problem: Error) => {
    if (run !== mine) return;
    end();
    if (problem.name !== "AbortError") complain(problem);
  });
}

/** What to fetch next: a stretch of the episode, or of what a cut took out. */
interface Stretched {
  start: number;
  frames: number;
  address: Address;
  /** The playhead goes with it. */
  moves: boolean;
}

/** A stretch of the episode as pieces, with what was cut between them where that is asked for. */
async function* stretches(mine: Run): AsyncGenerator<Stretched> {
  let size = FIRST_PIECE;
  do {
    let at = mine.first ?? mine.from;
    mine.first = undefined;
    while (at < mine.until && run === mine) {
      const frames = Math.min(size, mine.until - at);
      size = PIECE;
      if (!mine.cuts) {
        yield { start: at, frames, address: mine.address, moves: true };
        at += frames;
        continue;
      }
      const { splices } = await take(
        client.GET("/api/episodes/{episode_id}/page", {
          params: {
            path: { episode_id: source.episode },
            query: { revision: source.revision, start: at, frames },
          },
        }),
      );
      const end = at + frames;
      for (const splice of splices.toSorted((a, b) => a.at - b.at)) {
        if (splice.at > at) {
          yield { start: at, frames: splice.at - at, address: mine.address, moves: true };
          at = splice.at;
        }
        const address = pieces(source.revision, splice.cut);
        for (let done = 0; done < splice.frames; done += PIECE) {
          const count = Math.min(PIECE, splice.frames - done);
          yield { start: splice.at + done, frames: count, address, moves: false };
        }
      }
      if (end > at) yield { start: at, frames: end - at, address: mine.address, moves: true };
      at = end;
    }
  } while (mine.loop && run === mine);
}

async function feed(mine: Run, context: AudioContext, out: GainNode) {
  let due = 0;
  let stretch: Stretch | null = null;

  const schedule = (buffer: AudioBuffer, part: Stretched | null) => {
    const soon = context.currentTime + 0.03;
    if (!Number.isFinite(mine.began)) {
      mine.began = soon;
      due = soon;
      usePlayer.setState({ waiting: false });
      performance.measure("airtrim-first-sound", "airtrim-play");
    } else if (due < soon) {
      // The network was slower than the sound: the playhead waits with it.
      mine.began += soon - due;
      due = soon;
    }
    const node = new AudioBufferSourceNode(context, { buffer });
    node.connect(out);
    node.start(due);
    if (part) {
      const frames = part.moves ? part.frames : 0;
      mine.sounding.push({ when: due, seconds: buffer.duration, frame: part.start, frames });
      if (mine.sounding.length > 64) mine.sounding.shift();
    }
    due += buffer.duration;
  };

  for await (const part of stretches(mine)) {
    if (run !== mine) return;
    const answer = await fetch(part.address(part.start, part.frames), {
      signal: mine.abort.signal,
    });
    if (!answer.ok) {
      const said = (await answer.json().catch(() => null)) as { sentence?: string } | null;
      throw new Error(said?.sentence ?? "The sound did not come. Nothing was changed.");
    }
    let piece = await context.decodeAudioData(await answer.arrayBuffer());
    if (run !== mine) return;
    if (mine.speed !== 1) {
      stretch ??= new Stretch(piece.numberOfChannels, mine.speed);
      const made = stretch.push(channelsOf(piece));
      const length = made[0]?.length ?? 0;
      if (!length) continue;
      piece = bufferOf(context, made, length);
    }
    schedule(piece, part);
    while (due - context.currentTime > AHEAD_S && run === mine) await pause(200);
  }
  const rest = stretch?.flush();
  const length = rest?.[0]?.length ?? 0;
  if (rest && length) schedule(bufferOf(context, rest, length), null);
  while (run === mine && context.currentTime < due) await pause(40);
  if (run === mine) {
    end();
    if (!mine.quiet) usePlayer.setState({ at: mine.until });
  }
}

const channelsOf = (buffer: AudioBuffer) =>
  Array.from({ length: buffer.numberOfChannels }, (_, c) => buffer.getChannelData(c));

function bufferOf(context: AudioContext, channels: Float32Array[], length: number): AudioBuffer {
  const made = context.createBuffer(channels.length, length, RATE);
  channels.forEach((sound, c) => {
    made.getChannelData(c).set(sound);
  });
  return made;
}

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

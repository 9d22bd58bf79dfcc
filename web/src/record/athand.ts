/**
 * Sounds at hand while recording: a key plays one in, the host and everybody in the call hear it,
 * and it comes to lie on a track of its own at the frame of the key. One sounds at a time.
 */
import { create } from "zustand";
import { RATE, type Schemas } from "../api/client";
import { runningAudio, speakers } from "../playback/audio";
import { complain } from "../theme/toaster";
import { alsoSend } from "./capture";
import { moment, note as send, useTape } from "./tape";

type ShelfSound = Schemas["ShelfSound"];

/** What is longer is not kept ready in memory. */
export const LONGEST_FRAMES = 300 * RATE;
const FADE_S = 0.01;
const KEPT = "airtrim-sounds-db";

interface State {
  /** The sound that is playing, and the context's time at which it began. */
  sounding: string | null;
  began: number;
  levelDb: number;
}

export const useAtHand = create<State>(() => ({
  sounding: null,
  began: 0,
  levelDb: Number(localStorage.getItem(KEPT) ?? -6) || 0,
}));

/** How loud sounds are played in, apart from the voice. */
export function setLevel(levelDb: number) {
  localStorage.setItem(KEPT, String(levelDb));
  useAtHand.setState({ levelDb });
}

const ready = new Map<string, Promise<AudioBuffer>>();

/** Have a sound in memory, so that it is heard at once. */
export function prepare(sound: ShelfSound): Promise<AudioBuffer> {
  const known = ready.get(sound.id);
  if (known) return known;
  const made = (async () => {
    const context = await runningAudio();
    const answer = await fetch(`/api/sounds/${sound.id}/audio`);
    if (!answer.ok) throw new Error(`“${sound.name}” could not be read.`);
    return context.decodeAudioData(await answer.arrayBuffer());
  })();
  ready.set(sound.id, made);
  made.catch(() => ready.delete(sound.id));
  return made;
}

interface Playing {
  sound: ShelfSound;
  node: AudioBufferSourceNode;
  gain: GainNode;
  /** Where it began in the recording; null where none is being made. */
  at: Promise<number> | null;
  recording: string | null;
  levelDb: number;
}
let playing: Playing | null = null;

/** Play a sound in from its beginning; one that is playing ends, and is only ended when it is the
 * same. */
export async function playIn(sound: ShelfSound): Promise<void> {
  const same = playing?.sound.id === sound.id;
  hush();
  if (same || sound.end - sound.start > LONGEST_FRAMES) return;
  const { phase, recording } = useTape.getState();
  // The moment of the key, whatever is still to be done until it is heard.
  const at = phase === "recording" ? moment() : null;
  try {
    const [buffer, context] = await Promise.all([prepare(sound), runningAudio()]);
    const { levelDb } = useAtHand.getState();
    const gain = new GainNode(context, { gain: 10 ** (levelDb / 20) });
    const node = new AudioBufferSourceNode(context, { buffer });
    node.connect(gain).connect(speakers());
    alsoSend(gain);
    const mine: Playing = { sound, node, gain, at, recording, levelDb };
    playing = mine;
    node.onended = () => {
      gain.disconnect();
      if (playing !== mine) return;
      playing = null;
      useAtHand.setState({ sounding: null });
    };
    node.start(0, sound.start / RATE, (sound.end - sound.start) / RATE);
    useAtHand.setState({ sounding: sound.id, began: context.currentTime });
    if (at) note(mine, at, sound.end - sound.start);
  } catch (error) {
    complain(error);
  }
}

/** End what is playing. What of it was heard stays in the recording. */
export function hush() {
  const was = playing;
  if (!was) return;
  playing = null;
  useAtHand.setState({ sounding: null });
  const now = was.gain.context.currentTime;
  was.gain.gain.setTargetAtTime(0, now, FADE_S / 3);
  was.node.stop(now + FADE_S);
  if (!was.at || useTape.getState().recording !== was.recording) return;
  note(
    was,
    was.at,
    Promise.all([was.at, moment()]).then(([from, to]) => Math.max(1, to - from)),
  );
}

let noted: Promise<void> = Promise.resolve();
/** When all that was played in has been told to the server. */
export const allNoted = () => noted;

function note(
  { recording, sound, levelDb }: Playing,
  at: Promise<number>,
  frames: number | Promise<number>,
) {
  // One after another: that it ended early is told after that it began.
  noted = noted
    .then(async () => {
      const body = { sound: sound.id, frames: await frames, gain_db: levelDb };
      if (recording) send("PUT", recording, `played/${await at}`, body);
    })
    .catch(complain);
}

// A pause ends it as well, and so does the end of the recording.
useTape.subscribe(({ phase }, before) => {
  if (before.phase === "recording" && phase !== "recording") hush();
});

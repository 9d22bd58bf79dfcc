/** The host's recorder: beginning, with what is heard before and beside; pausing; ending; adding. */
import { client, type Landing, Problem, RATE, type Recording, take } from "../api/client";
import { beganAt, holdPlaying, playAlong, position, stop, usePlayer } from "../playback/player";
import { announce, complain } from "../theme/toaster";
import { clock } from "../time";
import { allNoted } from "./athand";
import { useCall } from "./call";
import { armed, isLost, microphones, openMicrophones, useCapture } from "./capture";
import { measuredDelay } from "./delay";
import { hold, mark, roll, send, thread, unthread, useTape } from "./tape";

/** What comes before a recording: nothing, a count of three, or the sound before its place. */
export type LeadIn = "none" | "count" | "hear";
const LEAD_S = 3;
const GUESTS_MS = 2500;
const TRACKS_MS = 10_000;

const set = useTape.setState;
const get = useTape.getState;

interface Begin {
  episode: number;
  landing: Landing;
  leadIn: LeadIn;
  /** The frame of the episode that it follows, to be heard up to. */
  after: number;
  /** Play what the episode holds there while it is recorded. */
  along: boolean;
  /** A recording that was left, to go on with. */
  left?: Recording;
}

let playingAlong = false;
/** Whether other tracks play along: then there is no pausing, since they would part company. */
export const playsAlong = () => playingAlong;

/** Begin a recording, or go on with one that was left. */
export async function record(begin: Begin): Promise<void> {
  const { episode, landing, left } = begin;
  if (get().phase !== "idle" || useCapture.getState().phase !== "on") return;
  try {
    const tracks = armed().map((m) => m.track);
    if (!tracks.length) throw new Problem("No microphone is set to be recorded.", 0);
    const recording =
      left ??
      (await take(
        client.POST("/api/episodes/{episode_id}/recordings", {
          params: { path: { episode_id: episode } },
          body: { tracks, landing },
        }),
      ));
    await thread(recording, { phase: "leading", tracks, landing });
    await Promise.all([lead(begin.leadIn, begin.after), guestsRolling()]);
    if (get().phase !== "leading") return;
    if (isLost()) throw new Problem("The microphone went away before the recording began.", 0);
    stop();
    if (left && get().frames > 0) {
      mark(recording.id, get().frames, "gap", "Interrupted here, then gone on");
    }
    playingAlong = begin.along;
    if (playingAlong) holdPlaying(true);
    const rolling = roll();
    if (playingAlong) await alongside(recording.id, landing, await rolling);
  } catch (error) {
    if (beganAt() === null) partFromTracks();
    // Nothing was recorded yet: what the server made of it stands among the unfinished ones.
    if (get().phase === "leading") unthread();
    complain(error);
  }
}

/** What plays beside the recording ends, or is not waited for any longer. */
function partFromTracks() {
  if (playingAlong) holdPlaying(false);
  playingAlong = false;
}

/** Play the episode from where the recording goes, and leave out of it what came before that sound
 * could be heard. */
async function alongside(recording: string, landing: Landing, firstTime: number) {
  playAlong(landing.at ?? 0);
  const playing = () => playingAlong && usePlayer.getState().playing;
  for (let waited = 0; beganAt() === null && playing() && waited < TRACKS_MS; waited += 25) {
    await new Promise((done) => setTimeout(done, 25));
  }
  const began = beganAt();
  if (!playingAlong) return; // it was ended before they began
  if (began === null) throw new Problem("The other tracks did not play along.", 0);
  const skip = Math.max(0, Math.round((began - firstTime) * RATE) + measuredDelay());
  const settled = { ...landing, skip };
  set({ landing: settled });
  await take(
    client.POST("/api/recordings/{recording_id}/landing", {
      params: { path: { recording_id: recording } },
      body: settled,
    }),
  );
}

/** Guests who are ready begin first, so that nothing of them is missing; but not for ever. */
async function guestsRolling() {
  const late = () => useCall.getState().peers.some((p) => !p.host && p.microphone && !p.recording);
  for (let waited = 0; late() && waited < GUESTS_MS; waited += 50) {
    await new Promise((done) => setTimeout(done, 50));
  }
}

async function lead(leadIn: LeadIn, at: number): Promise<void> {
  if (leadIn === "none") return;
  const from = Math.max(0, at - LEAD_S * RATE);
  if (leadIn === "hear" && from < at) playAlong(from, at);
  const began = performance.now();
  const heard = () =>
    leadIn === "hear" && usePlayer.getState().playing
      ? (at - position()) / RATE
      : LEAD_S - (performance.now() - began) / 1000;
  for (let left = heard(); left > 0 && get().phase === "leading"; left = heard()) {
    set({ lead: Math.ceil(left) });
    await new Promise((done) => setTimeout(done, 20));
  }
  set({ lead: 0 });
}

/** Do not record after all, while it leads in. */
export async function callOff(): Promise<void> {
  const { phase, recording } = get();
  if (phase !== "leading" || !recording) return;
  stop();
  set({ phase: "ending" });
  const path = { recording_id: recording };
  await take(client.POST("/api/recordings/{recording_id}/discard", { params: { path } })).catch(
    complain,
  );
  unthread();
}

export const pause = () => (playingAlong ? Promise.resolve() : hold());

/** Go on after a pause; a microphone that went away is opened again first. */
export async function goOn(): Promise<void> {
  if (get().phase !== "paused") return;
  if (isLost()) await openMicrophones(microphones());
  if (useCapture.getState().phase !== "on") return;
  await roll();
}

let without = false;
/** Do not wait for guests' sound any longer; it can be added when it has come. */
export const addWithout = () => {
  without = true;
};

/** End the recording and put it into the episode. */
export async function finish(): Promise<void> {
  const { recording } = get();
  if (!recording) return;
  partFromTracks();
  await hold();
  set({ phase: "ending" });
  try {
    await allNoted();
    await send(recording, true);
    await add(recording, get().landing);
    const length = clock(get().frames);
    unthread();
    announce(`${length} were recorded, and are on the Page in a moment.`);
  } catch (error) {
    set({ phase: "paused" });
    complain(error);
  }
}

/** Put a recording into its episode: what waits in this browser first, then guests' sound. */
export async function add(recording: string, landing: Landing | null): Promise<void> {
  without = false; // it was said of another recording
  await send(recording, false);
  const params = { path: { recording_id: recording } };
  const { pieces } = await take(client.GET("/api/recordings/{recording_id}", { params }));
  await take(client.POST("/api/recordings/{recording_id}/end", { params, body: { pieces } }));
  while (!without) {
    const guests = await take(client.GET("/api/recordings/{recording_id}/companions", { params }));
    const behind = guests.filter((g) => g.state === "open" && g.whole !== g.pieces);
    set({ waitingFor: behind.map((g) => g.tracks[0] ?? "a guest") });
    if (!behind.length) break;
    await new Promise((done) => setTimeout(done, 300));
  }
  set({ waitingFor: [] });
  await take(
    client.POST("/api/recordings/{recording_id}/add", { params, body: { pieces, landing } }),
  );
}

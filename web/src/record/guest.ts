/** A guest's recording: it begins and ends when the host's does, and is kept as safely. */
import { client, Problem, type Recording, take } from "../api/client";
import { complain } from "../theme/toaster";
import { useCall } from "./call";
import { closeMicrophones, isLost, microphones, openMicrophones, useCapture } from "./capture";
import { outbox } from "./outbox";
import { hold, mark, roll, send, thread, unthread, useTape } from "./tape";

let token = "";
let beside: string | null = null;
let busy = false;
/** Whether something changed while it was busy, which it has to look at. */
let missed = false;
let following = false;
/** The number of this visit to the call; what an earlier visit still waits for comes to nothing. */
let visit = 0;
/** How long it waits after something went wrong. */
const AGAIN_MS = 2000;

const baseOf = (of: string) => `/api/join/${of}`;

/** The recording of the host in which this tab was recorded last: a reload goes on with it. */
const RECORDED = "airtrim-recorded-beside";
export const wasRecordedBeside = () => sessionStorage.getItem(RECORDED);

/** Follow the host from now on, with the token of the guest's link. */
export function followHost(link: string): () => void {
  token = link;
  following = true;
  visit += 1;
  const leave = [useCall.subscribe(() => void obey()), useCapture.subscribe(() => void obey())];
  void sendWhatIsLeft();
  return () => {
    following = false;
    visit += 1;
    for (const off of leave) off();
    void standDown();
  };
}

/** Let go of the recording and the microphone when the page leaves the call. What was said is kept in
 * this browser and sent; the next visit goes on with the same recording. */
async function standDown() {
  if (useTape.getState().recording) {
    await hold();
    unthread();
  }
  beside = null;
  if (!following) closeMicrophones();
}

/** Begin or end as the host does. A connection that is lost in between changes nothing. */
async function obey() {
  missed = true;
  if (busy) return;
  busy = true;
  while (missed && following) {
    missed = false;
    try {
      await follow();
    } catch (error) {
      complain(error);
      missed = true;
      await new Promise((done) => setTimeout(done, AGAIN_MS));
    }
  }
  busy = false;
}

async function follow() {
  const { there, recording: hosts } = useCall.getState();
  const { phase } = useTape.getState();
  if (there && beside && hosts !== beside) await end();
  else if (there && hosts && !beside && useCapture.getState().phase === "on") await begin(hosts);
  else if (phase === "paused" && beside && hosts === beside && !isLost()) await roll();
}

async function begin(hosts: string) {
  const mine = visit;
  const recording: Recording = await take(
    client.POST("/api/join/{token}/recordings", {
      params: { path: { token } },
      body: { beside: hosts },
    }),
  );
  if (mine !== visit) return;
  await thread(recording, { tracks: [...recording.tracks] }, baseOf(token));
  if (mine !== visit) return unthread();
  beside = hosts;
  sessionStorage.setItem(RECORDED, hosts);
  const { frames } = useTape.getState();
  if (frames > 0) {
    mark(recording.id, frames, "gap", "Interrupted here, then gone on");
  }
  await roll();
}

/** After a microphone went away: open it again and go on. */
export async function goOnAsGuest() {
  if (isLost()) await openMicrophones(microphones());
  await obey();
}

/** End one's own recording and let the host know that all of it is there. */
export async function end(): Promise<void> {
  const { recording } = useTape.getState();
  if (!recording) return;
  await hold();
  useTape.setState({ phase: "ending" });
  try {
    await send(recording, true);
  } catch (error) {
    // Refused for good: the host has set it aside. What waits here stays here.
    if (error instanceof Problem && error.status >= 400 && error.status < 500) {
      complain(error);
      beside = null;
      return unthread();
    }
    useTape.setState({ phase: "paused" });
    throw error;
  }
  await ended(recording);
  beside = null;
  sessionStorage.removeItem(RECORDED);
  unthread();
}

async function ended(recording: string) {
  const params = { path: { token, recording_id: recording } };
  const { pieces } = await take(
    client.GET("/api/join/{token}/recordings/{recording_id}", { params }),
  );
  await take(
    client.POST("/api/join/{token}/recordings/{recording_id}/end", { params, body: { pieces } }),
  );
}

/** Send what an earlier visit left in this browser. */
async function sendWhatIsLeft() {
  for (const recording of await outbox.waiting(baseOf(token))) {
    await send(recording, true).catch(complain);
    await beingThere();
    const { data } = await client.GET("/api/join/{token}/recordings/{recording_id}", {
      params: { path: { token, recording_id: recording } },
    });
    const over = data?.state === "open" && data.beside !== useCall.getState().recording;
    if (over) await ended(recording).catch(complain);
  }
}

/** Until it is known what the host is doing. */
const beingThere = () =>
  new Promise<void>((resolve) => {
    if (useCall.getState().there) return resolve();
    const leave = useCall.subscribe(({ there }) => {
      if (!there) return;
      leave();
      resolve();
    });
  });

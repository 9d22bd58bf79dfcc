/** The outbox at work, off the page's own thread: pieces and notes are kept, then sent, in order. */
import { Problem } from "../api/client";
import { type Note, outbox, type Piece, type Sent } from "./outbox";

export type ToOutbox =
  | { kind: "piece"; piece: Piece }
  | { kind: "note"; note: Note }
  /** Send everything of a recording; `patient` for as long as it takes. */
  | { kind: "send"; recording: string; patient: boolean; ask: number };

export type FromOutbox =
  | ({ kind: "sent"; recording: string } & Sent)
  | { kind: "trouble"; recording: string; sentence: string | null }
  | { kind: "done"; ask: number; sentence: string | null; status: number };

const say = (message: FromOutbox) => postMessage(message);

let writing: Promise<unknown> = Promise.resolve();
const sending = new Map<string, Promise<void>>();
/** What is wrong with this browser's own store; it stays on the screen while pieces are sent. */
let noRoom: string | null = null;

function send(recording: string, patient: boolean): Promise<void> {
  const going = sending.get(recording);
  if (going) return going;
  const mine = outbox
    .sendAll(recording, {
      going: () => patient,
      onSent: (sent) => say({ kind: "sent", recording, ...sent }),
      onTrouble: (sentence) => say({ kind: "trouble", recording, sentence: sentence ?? noRoom }),
    })
    .finally(() => sending.delete(recording));
  sending.set(recording, mine);
  return mine;
}

const report = (recording: string) => (error: Error) =>
  say({ kind: "trouble", recording, sentence: error.message });

/** Keep something of a recording, then send it. Only what is written is sent. */
function take(recording: string, keep: () => Promise<unknown>) {
  writing = writing.then(keep).catch(report(recording));
  void writing.then(() => send(recording, true)).catch(report(recording));
}

addEventListener("message", ({ data }: MessageEvent<ToOutbox>) => {
  if (data.kind === "piece") {
    return take(data.piece.recording, async () => {
      noRoom = await outbox.keep(data.piece);
    });
  }
  if (data.kind === "note") return take(data.note.recording, () => outbox.note(data.note));
  const { recording, patient, ask } = data;
  void writing
    .then(() => send(recording, patient))
    // What was kept while that was being sent goes with it.
    .then(() => send(recording, patient))
    .then(
      () => say({ kind: "done", ask, sentence: null, status: 200 }),
      (error: Error) => {
        const status = error instanceof Problem ? error.status : 0;
        say({ kind: "done", ask, sentence: error.message, status });
      },
    );
});

/** The outbox at work, off the page's own thread: pieces are kept, then sent, in order. */
import { Problem } from "../api/client";
import { keep, type Piece, type Sent, sendAll } from "./outbox";

export type ToOutbox =
  | { kind: "piece"; piece: Piece }
  /** Send all that waits of a recording; `patient` for as long as it takes. */
  | { kind: "send"; recording: string; patient: boolean; ask: number };

export type FromOutbox =
  | ({ kind: "sent"; recording: string } & Sent)
  | { kind: "trouble"; recording: string; sentence: string | null }
  | { kind: "done"; ask: number; sentence: string | null; status: number };

const say = (message: FromOutbox) => postMessage(message);

let writing: Promise<void> = Promise.resolve();
const sending = new Map<string, Promise<void>>();

function send(recording: string, patient: boolean): Promise<void> {
  const going = sending.get(recording);
  if (going) return going;
  const mine = sendAll(
    recording,
    () => patient,
    (sent) => say({ kind: "sent", recording, ...sent }),
    (sentence) => say({ kind: "trouble", recording, sentence }),
  ).finally(() => sending.delete(recording));
  sending.set(recording, mine);
  return mine;
}

const told = (recording: string) => (error: Error) =>
  say({ kind: "trouble", recording, sentence: error.message });

addEventListener("message", ({ data }: MessageEvent<ToOutbox>) => {
  if (data.kind === "piece") {
    const { recording } = data.piece;
    writing = writing.then(() => keep(data.piece)).catch(told(recording));
    void writing.then(() => send(recording, true)).catch(told(recording));
    return;
  }
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

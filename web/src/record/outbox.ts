/** Pieces of recordings, kept in this browser until the server has them on disk. */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { Problem, type Schemas, takeBytes } from "../api/client";

interface Piece {
  recording: string;
  number: number;
  start: number;
  data: Float32Array;
}

interface Kept extends DBSchema {
  pieces: { key: [string, number]; value: Piece; indexes: { recording: string } };
}

let opened: Promise<IDBPDatabase<Kept>> | null = null;

function kept() {
  opened ??= openDB<Kept>("airtrim", 1, {
    upgrade(db) {
      const pieces = db.createObjectStore("pieces", { keyPath: ["recording", "number"] });
      pieces.createIndex("recording", "recording");
    },
  });
  return opened;
}

export const keep = async (piece: Piece) => {
  await (await kept()).put("pieces", piece);
};

const first = async (recording: string): Promise<Piece | undefined> => {
  const cursor = await (await kept())
    .transaction("pieces")
    .store.index("recording")
    .openCursor(recording);
  return cursor?.value;
};

async function forget(recording: string, number: number) {
  await (await kept()).delete("pieces", [recording, number]);
}

export interface Sent {
  /** Pieces the server has on disk. */
  pieces: number;
  frames: number;
  secondsLeft: number | null;
}

const put = ({ recording, number, start, data }: Piece) =>
  takeBytes<Schemas["PieceKept"]>(
    "PUT",
    `/api/recordings/${recording}/pieces/${number}?start=${start}`,
    data as Float32Array<ArrayBuffer>,
  );

/**
 * Send what is kept of a recording, in order, until nothing is left. While the server does not
 * answer or has no room it is tried again for as long as `going` says so; `onTrouble` is told.
 */
export async function sendAll(
  recording: string,
  going: () => boolean,
  onSent: (sent: Sent) => void,
  onTrouble: (sentence: string | null) => void,
): Promise<void> {
  let patience = 250;
  for (let piece = await first(recording); piece; piece = await first(recording)) {
    try {
      const answer = await put(piece);
      await forget(recording, piece.number);
      onSent({
        pieces: answer.pieces,
        frames: answer.frames,
        secondsLeft: answer.seconds_left,
      });
      onTrouble(null);
      patience = 250;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      if (error.wanted !== null && error.wanted < piece.number) {
        // One before it is lost: this one takes its number, and the server marks what is missing
        // by where the piece begins.
        await keep({ ...piece, number: error.wanted });
        await forget(recording, piece.number);
        continue;
      }
      const lasting = error.status >= 400 && error.status < 500;
      if (lasting || !going()) throw error;
      onTrouble(error.message);
      await new Promise((done) => setTimeout(done, patience));
      patience = Math.min(3000, patience * 2);
    }
  }
}

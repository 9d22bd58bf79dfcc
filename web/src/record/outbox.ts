/** Pieces of recordings, kept in this browser until the server has them on disk. */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { Problem, type Schemas, takeBytes } from "../api/client";

export interface Piece {
  recording: string;
  /** The address that its recording is under. */
  base?: string;
  number: number;
  start: number;
  data: Float32Array;
  channels?: number;
  /** When its first frame was heard by the server's clock, and in which run. */
  atS?: number | null;
  run?: number;
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

/** Recordings under an address of which pieces wait here. */
export async function waiting(base: string): Promise<string[]> {
  const all = await (await kept()).getAll("pieces");
  return [...new Set(all.filter((p) => p.base === base).map((p) => p.recording))];
}

const put = ({ recording, base = "/api", number, start, data, atS, run }: Piece) => {
  const heard = atS === null || atS === undefined ? "" : `&at_s=${atS}&run=${run ?? 0}`;
  return takeBytes<Schemas["PieceKept"]>(
    "PUT",
    `${base}/recordings/${recording}/pieces/${number}?start=${start}${heard}`,
    data as Float32Array<ArrayBuffer>,
  );
};

/** Where a recording goes on after the pieces of it that wait here; null where none do. */
export async function reached(recording: string) {
  const pieces = await (await kept()).getAllFromIndex("pieces", "recording", recording);
  const last = pieces.at(-1);
  if (!last) return null;
  const channels = last.channels ?? 1;
  return { number: last.number + 1, frames: last.start + last.data.length / channels };
}

const GONE = 410;

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
      const { wanted } = error.known;
      if (typeof wanted === "number" && wanted < piece.number) {
        // One before it is lost: this one takes its number, and the server marks what is missing
        // by where the piece begins.
        await keep({ ...piece, number: wanted });
        await forget(recording, piece.number);
        continue;
      }
      // A closed link can be opened again.
      const lasting = error.status >= 400 && error.status < 500 && error.status !== GONE;
      if (lasting || !going()) throw error;
      onTrouble(error.message);
      await new Promise((done) => setTimeout(done, patience));
      patience = Math.min(3000, patience * 2);
    }
  }
}

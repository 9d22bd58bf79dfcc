/**
 * Pieces of recordings and notes about them, kept in this browser until the server has them on disk.
 */
import { Problem, type Schemas, takeBytes, takeJson } from "../api/client";
import { Backlog, type Row } from "./backlog";

export interface Piece extends Row {
  /** The address that its recording is under. */
  base?: string;
  start: number;
  data: Float32Array;
  channels?: number;
  /** The time of its first frame by the server's clock, in seconds, and the run it belongs to. */
  atS?: number | null;
  run?: number;
}

/** A flag, a gap, or a sound that was played in: a request about a recording. */
export interface Note extends Row {
  method: "POST" | "PUT";
  address: string;
  body: unknown;
}

export interface Sent {
  /** Pieces the server has on disk. */
  pieces: number;
  frames: number;
  secondsLeft: number | null;
}

export interface Transport {
  piece: (piece: Piece) => Promise<Sent>;
  note: (note: Note) => Promise<unknown>;
}

export interface Sending {
  /** Whether to try again while the server does not answer or has no room. */
  going: () => boolean;
  onSent: (sent: Sent) => void;
  onTrouble: (sentence: string | null) => void;
}

const GONE = 410;
const FIRST_PAUSE_MS = 250;
const LONGEST_PAUSE_MS = 3000;
const NO_ROOM =
  "This browser cannot keep more sound on its disk. The sound goes to Air Trim directly: leave this page open.";

/** An answer that a second attempt cannot change. A closed link can be opened again. */
const isFinal = (error: Problem) =>
  error.status >= 400 && error.status < 500 && error.status !== GONE;

export class Outbox {
  constructor(
    private readonly pieces: Backlog<Piece>,
    private readonly notes: Backlog<Note>,
    private readonly transport: Transport,
  ) {}

  /** Keep a piece; returns a sentence if only the memory of this page holds it. */
  async keep(piece: Piece): Promise<string | null> {
    return (await this.pieces.keep(piece)) ? null : NO_ROOM;
  }

  async note(note: Note): Promise<void> {
    await this.notes.keep(note);
  }

  /** Recordings under an address that have something here. */
  async waiting(base: string): Promise<string[]> {
    const found: string[] = [];
    for (const recording of await this.pieces.recordings()) {
      const piece = await this.pieces.first(recording);
      if (piece?.base === base) found.push(recording);
    }
    return found;
  }

  /** Where a recording goes on after the pieces of it that are here; null where none are. */
  async reached(recording: string): Promise<{ number: number; frames: number } | null> {
    const last = await this.pieces.last(recording);
    if (!last) return null;
    const frames = last.start + last.data.length / (last.channels ?? 1);
    return { number: last.number + 1, frames };
  }

  /** Send everything of a recording, in order, until nothing is left. */
  async sendAll(recording: string, how: Sending): Promise<void> {
    let pause = FIRST_PAUSE_MS;
    for (;;) {
      const note = await this.notes.first(recording);
      const piece = note ? undefined : await this.pieces.first(recording);
      if (!note && !piece) return;
      try {
        if (note) await this.sendNote(note, how);
        else if (piece) await this.sendPiece(piece, how);
        pause = FIRST_PAUSE_MS;
      } catch (error) {
        if (!(error instanceof Problem) || isFinal(error) || !how.going()) throw error;
        how.onTrouble(error.message);
        await new Promise((done) => setTimeout(done, pause));
        pause = Math.min(LONGEST_PAUSE_MS, pause * 2);
      }
    }
  }

  private async sendNote(note: Note, how: Sending): Promise<void> {
    try {
      await this.transport.note(note);
    } catch (error) {
      if (!(error instanceof Problem) || !isFinal(error)) throw error;
      // The sound must not wait for a note that the server refuses.
      how.onTrouble(`A moment was not marked. ${error.message}`);
    }
    await this.notes.forget(note);
  }

  private async sendPiece(piece: Piece, how: Sending): Promise<void> {
    try {
      const sent = await this.transport.piece(piece);
      await this.pieces.forget(piece);
      how.onSent(sent);
      how.onTrouble(null);
    } catch (error) {
      const wanted = error instanceof Problem ? error.known.wanted : null;
      if (typeof wanted !== "number" || wanted >= piece.number) throw error;
      // A piece before this one is lost. This one takes its number; the server marks what is missing
      // by the frame at which the piece begins.
      await this.pieces.keep({ ...piece, number: wanted });
      await this.pieces.forget(piece);
    }
  }
}

const transport: Transport = {
  piece: async ({ recording, base = "/api", number, start, data, atS, run }) => {
    const heard = atS === null || atS === undefined ? "" : `&at_s=${atS}&run=${run ?? 0}`;
    const answer = await takeBytes<Schemas["PieceKept"]>(
      "PUT",
      `${base}/recordings/${recording}/pieces/${number}?start=${start}${heard}`,
      data as Float32Array<ArrayBuffer>,
    );
    return { pieces: answer.pieces, frames: answer.frames, secondsLeft: answer.seconds_left };
  },
  note: ({ method, address, body }) => takeJson(method, address, body),
};

export const outbox = new Outbox(
  new Backlog<Piece>("airtrim", "pieces"),
  new Backlog<Note>("airtrim-notes", "notes"),
  transport,
);

import "fake-indexeddb/auto";
import { IDBFactory } from "fake-indexeddb";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../src/api/client";
import { Backlog } from "../src/record/backlog";
import { type Note, Outbox, type Piece, type Sending, type Transport } from "../src/record/outbox";

const piece = (number: number, recording = "a"): Piece => ({
  recording,
  base: "/api",
  number,
  start: number * 100,
  data: new Float32Array(100),
  channels: 1,
});
const note = (number: number): Note => ({
  recording: "a",
  number,
  method: "POST",
  address: "/api/recordings/a/flags",
  body: { at: number },
});

class Server implements Transport {
  readonly pieces: number[] = [];
  readonly notes: number[] = [];
  reachable = true;
  refusal: Problem | null = null;

  private answer() {
    if (!this.reachable) throw new Problem("Air Trim does not answer.", 0);
    if (this.refusal) throw this.refusal;
  }

  async piece(sent: Piece) {
    this.answer();
    this.pieces.push(sent.number);
    return { pieces: this.pieces.length, frames: sent.start + 100, secondsLeft: null };
  }

  async note(sent: Note) {
    this.answer();
    this.notes.push(sent.number);
  }
}

let server: Server;
let pieces: Backlog<Piece>;
let box: Outbox;
const how = (): Sending => ({
  going: () => true,
  onSent: () => undefined,
  onTrouble: () => undefined,
});
const build = () => {
  pieces = new Backlog<Piece>("airtrim", "pieces");
  return new Outbox(pieces, new Backlog<Note>("airtrim-notes", "notes"), server);
};

beforeEach(() => {
  globalThis.indexedDB = new IDBFactory();
  server = new Server();
  box = build();
});

/** The browser's database refuses every write, as on a full disk. */
function full(): () => void {
  const put = vi.spyOn(IDBObjectStore.prototype, "put").mockImplementation(() => {
    throw new DOMException("The disk is full.", "QuotaExceededError");
  });
  return () => put.mockRestore();
}

describe("the outbox", () => {
  it("sends pieces in order, once each", async () => {
    for (const number of [0, 1, 2]) await box.keep(piece(number));
    await box.sendAll("a", how());
    expect(server.pieces).toEqual([0, 1, 2]);
    await box.sendAll("a", how());
    expect(server.pieces).toEqual([0, 1, 2]);
  });

  it("sends a piece that the browser's database refused, and says so", async () => {
    await box.keep(piece(0));
    const restore = full();
    expect(await box.keep(piece(1))).toContain("leave this page open");
    restore();
    expect(await box.keep(piece(2))).toBeNull();
    await box.sendAll("a", how());
    expect(server.pieces).toEqual([0, 1, 2]);
  });

  it("opens the database again after the browser has closed the connection", async () => {
    await box.keep(piece(0));
    const closed = vi.spyOn(IDBDatabase.prototype, "transaction").mockImplementationOnce(() => {
      throw new DOMException("The connection is closing.", "InvalidStateError");
    });
    expect(await box.keep(piece(1))).toBeNull();
    closed.mockRestore();
    await box.sendAll("a", how());
    expect(server.pieces).toEqual([0, 1]);
  });

  it("does not send a piece for ever that the database does not delete", async () => {
    await box.keep(piece(0));
    const broken = vi.spyOn(IDBObjectStore.prototype, "delete").mockImplementation(() => {
      throw new DOMException("Broken", "UnknownError");
    });
    await box.sendAll("a", how());
    broken.mockRestore();
    expect(server.pieces).toEqual([0]);
  });

  it("keeps a mark for longer than a minute without a connection", async () => {
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
    server.reachable = false;
    await box.note(note(1));
    const sent = box.sendAll("a", how());
    for (let second = 0; second < 600; second++) {
      await vi.advanceTimersByTimeAsync(1000);
    }
    server.reachable = true;
    vi.useRealTimers();
    // A page that was closed meanwhile finds it again.
    const after = build();
    await Promise.race([sent, after.sendAll("a", how())]);
    expect(server.notes[0]).toBe(1);
  });

  it("does not let a refused mark hold up the sound", async () => {
    server.refusal = new Problem("That is past the end.", 422);
    await box.note(note(1));
    await box.keep(piece(0));
    const troubles: (string | null)[] = [];
    const sending = box.sendAll("a", {
      ...how(),
      onTrouble: (t) => {
        troubles.push(t);
        server.refusal = null;
      },
    });
    await sending;
    expect(troubles[0]).toContain("past the end");
    expect(server.pieces).toEqual([0]);
  });

  it("reads one piece at a time, however much waits", async () => {
    for (let number = 0; number < 50; number++) await box.keep(piece(number));
    const all = vi.spyOn(IDBIndex.prototype, "getAll");
    const allOfStore = vi.spyOn(IDBObjectStore.prototype, "getAll");
    expect(await box.reached("a")).toEqual({ number: 50, frames: 5000 });
    expect(await box.waiting("/api")).toEqual(["a"]);
    expect(all).not.toHaveBeenCalled();
    expect(allOfStore).not.toHaveBeenCalled();
  });
});

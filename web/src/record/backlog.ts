/**
 * Rows of recordings that the server does not have yet, in the browser's database. When the database
 * refuses a row, the row is kept in memory; when its connection is lost, it is opened again.
 */
import { type IDBPDatabase, openDB } from "idb";

export interface Row {
  recording: string;
  number: number;
}

const keyOf = ({ recording, number }: Row): [string, number] => [recording, number];
const least = <T extends Row>(a: T | undefined, b: T | undefined): T | undefined =>
  a && b ? (a.number <= b.number ? a : b) : (a ?? b);

export class Backlog<T extends Row> {
  private connection: Promise<IDBPDatabase> | null = null;
  private readonly memory = new Map<string, T>();
  /** Rows that were forgotten although the database did not delete them. */
  private readonly forgotten = new Set<string>();

  constructor(
    private readonly database: string,
    private readonly store: string,
  ) {}

  private connect(): Promise<IDBPDatabase> {
    const { store } = this;
    const forget = () => {
      this.connection = null;
    };
    this.connection ??= openDB(this.database, 1, {
      upgrade(db) {
        const rows = db.createObjectStore(store, { keyPath: ["recording", "number"] });
        rows.createIndex("recording", "recording");
      },
      terminated: forget,
    }).catch((error) => {
      forget();
      throw error;
    });
    return this.connection;
  }

  /** Run `work`; once more on a new connection if the first attempt fails. */
  private async attempt<R>(work: (db: IDBPDatabase) => Promise<R>): Promise<R> {
    try {
      return await work(await this.connect());
    } catch {
      this.connection?.then(
        (db) => db.close(),
        () => undefined,
      );
      this.connection = null;
      return await work(await this.connect());
    }
  }

  private inMemory(recording: string): T[] {
    return [...this.memory.values()]
      .filter((row) => row.recording === recording)
      .sort((a, b) => a.number - b.number);
  }

  /** Keep a row. Returns false if the database refused it and only memory holds it. */
  async keep(row: T): Promise<boolean> {
    try {
      await this.attempt((db) => db.put(this.store, row));
      this.forgotten.delete(keyOf(row).join());
      this.memory.delete(keyOf(row).join());
      return true;
    } catch {
      this.memory.set(keyOf(row).join(), row);
      return false;
    }
  }

  private async at(recording: string, direction: "next" | "prev"): Promise<T | undefined> {
    // The primary key orders rows by number; a cursor on the index reads one row and not all.
    return this.attempt(async (db) => {
      const index = db.transaction(this.store).store.index("recording");
      let cursor = await index.openCursor(recording, direction);
      while (cursor && this.forgotten.has(String(cursor.primaryKey))) {
        cursor = await cursor.continue();
      }
      return cursor?.value as T | undefined;
    }).catch(() => undefined);
  }

  /** The row of a recording with the lowest number. */
  async first(recording: string): Promise<T | undefined> {
    return least(this.inMemory(recording)[0], await this.at(recording, "next"));
  }

  /** The row of a recording with the highest number. */
  async last(recording: string): Promise<T | undefined> {
    const [kept, remembered] = [await this.at(recording, "prev"), this.inMemory(recording).at(-1)];
    return kept && remembered && kept.number > remembered.number ? kept : (remembered ?? kept);
  }

  async forget(row: Row): Promise<void> {
    const key = keyOf(row).join();
    this.memory.delete(key);
    await this.attempt((db) => db.delete(this.store, keyOf(row))).catch(() =>
      this.forgotten.add(key),
    );
  }

  /** The recordings that have rows here. */
  async recordings(): Promise<string[]> {
    const names = new Set([...this.memory.values()].map((row) => row.recording));
    await this.attempt(async (db) => {
      const index = db.transaction(this.store).store.index("recording");
      for (
        let cursor = await index.openKeyCursor(null, "nextunique");
        cursor;
        cursor = await cursor.continue()
      ) {
        names.add(String(cursor.key));
      }
    }).catch(() => undefined);
    return [...names];
  }
}

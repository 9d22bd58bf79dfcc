/** Uploads by the open tus protocol: resumable, streamed, with progress. */
import type { DetailedError } from "tus-js-client";
import { create } from "zustand";
import { Problem, type Schemas } from "./client";

export interface Sending {
  id: number;
  episode: number;
  name: string;
  /** Whether it becomes an episode of a batch, which is made for it. */
  inBatch: boolean;
  /** 0 to 1. */
  done: number;
  cancel: () => void;
}

export const useSending = create<{ list: Sending[] }>(() => ({ list: [] }));

let next = 1;

/** Refusals that pass: the part does not follow, another tab sends it, its checksum is another. */
const AGAIN = new Set([409, 423, 460]);

/** Send files into an episode, one after another; problems go to `onProblem` as sentences. */
export async function send(
  episode: number,
  files: File[],
  onProblem: (problem: Error) => void,
  where?: To,
) {
  for (const file of files) {
    await sendOne(episode, file, where).catch(onProblem);
  }
}

/** Where a recording goes; without it, after what is there. */
export interface Where {
  at: number;
  /** What is later makes room. */
  insert: boolean;
  /** On a track of this name; without it, on a new one named after the file. */
  track?: string;
}

/** To the shelf of sounds of the show, and what it is for there. */
export interface Shelved {
  shelf: Schemas["ShelfSound"]["kind"];
}

/** In the place of an empty episode: it is a packed one. */
export interface Packed {
  pack: true;
}

/** As a part of its own, after all others. */
export interface AsPart {
  part: true;
}

/** As an episode of a batch, made by a recipe. */
export interface InBatch {
  batch: string;
  recipe: string;
}

type To = Where | Shelved | Packed | AsPart | InBatch | undefined;

function placed(where: To, name: string): Record<string, string> {
  if (!where) return {};
  if ("shelf" in where) return { shelf: where.shelf };
  if ("pack" in where) return { pack: "1" };
  if ("part" in where) return { part: "1" };
  if ("batch" in where) return { batch: where.batch, recipe: where.recipe };
  const own = name.replace(/\.[^.]+$/, "").slice(0, 80) || "Recording";
  const place = { track: where.track ?? own, at: String(where.at) };
  return where.insert ? { ...place, insert: "true" } : place;
}

async function sendOne(episode: number, file: File, where?: To): Promise<void> {
  const id = next++;
  const change = (done: number) =>
    useSending.setState(({ list }) => ({
      list: list.map((s) => (s.id === id ? { ...s, done } : s)),
    }));
  const forget = () =>
    useSending.setState(({ list }) => ({ list: list.filter((s) => s.id !== id) }));
  // Loaded when it is first needed, so that the interface starts sooner.
  const [{ Upload }, { ChecksumStack }] = await Promise.all([
    import("tus-js-client"),
    import("./checksum"),
  ]);
  return new Promise<void>((resolve, reject) => {
    if (file.size === 0) {
      reject(new Problem(`“${file.name}” is empty (0 bytes), so there is nothing to add.`, 422));
      return;
    }
    const upload = new Upload(file, {
      endpoint: "/api/uploads/",
      chunkSize: 8_000_000,
      retryDelays: [0, 1000, 3000, 5000, 10_000],
      httpStack: new ChecksumStack({}),
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        return status < 400 || status >= 500 || AGAIN.has(status);
      },
      removeFingerprintOnSuccess: true,
      // The same file sent to another episode is another upload.
      fingerprint: async (f) =>
        [
          "airtrim",
          episode,
          where && "at" in where ? where.at : Object.keys(where ?? {}).join(),
          (f as File).name,
          f.size,
          (f as File).lastModified,
        ].join("-"),
      metadata: {
        filename: file.name,
        filetype: file.type || "application/octet-stream",
        episode: String(episode),
        ...placed(where, file.name),
      },
      onProgress: (sent, total) => change(sent / total),
      onSuccess: () => resolve(),
      onError: (error) => reject(new Problem(sentenceOf(error, file.name), 0)),
    });
    const cancel = () => {
      void upload.abort(true);
      forget();
      resolve();
    };
    useSending.setState(({ list }) => ({
      list: [
        ...list,
        { id, episode, name: file.name, inBatch: !!where && "batch" in where, done: 0, cancel },
      ],
    }));
    upload.findPreviousUploads().then((found) => {
      if (found[0]) upload.resumeFromPreviousUpload(found[0]);
      upload.start();
    });
  }).finally(forget);
}

function sentenceOf(error: Error | DetailedError, name: string): string {
  if ("originalResponse" in error && error.originalResponse) {
    try {
      const said = JSON.parse(error.originalResponse.getBody()) as { sentence?: string };
      if (said.sentence) return said.sentence;
    } catch {
      // Not ours: the sentence below will do.
    }
  }
  return `“${name}” did not get through. What was sent is kept: add it again and it goes on from there.`;
}

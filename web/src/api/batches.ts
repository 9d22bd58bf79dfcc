/** Many episodes of a show through one recipe: what was made, and making more. */
import { type QueryClient, useQuery } from "@tanstack/react-query";
import { complain } from "../theme/toaster";
import { client, type Job, RATE, type Schemas, take, underWay } from "./client";
import { newest } from "./jobs";
import { addEpisode, beginEpisode, patchEpisode } from "./shelf";
import { send } from "./upload";

export type Batches = Schemas["BatchesView"];
export type Batch = Batches["batches"][number];
export type BatchEntry = Batch["entries"][number];
export type Recipe = Schemas["EpisodeRecipe"];

/** Seconds of work for a second of sound where no batch has told it yet. */
const USUAL_PACE = 0.15;

const key = (show: number) => ["batches", show] as const;

export const useBatches = (show: number) =>
  useQuery({
    queryKey: key(show),
    queryFn: async () => {
      const params = { path: { show_id: show } };
      return withJobs(await take(client.GET("/api/shows/{show_id}/batches", { params })), newest);
    },
  });

/** The same batches with other jobs in the places of theirs. */
const withJobs = (view: Batches, now: (job: Job) => Job): Batches => ({
  ...view,
  batches: view.batches.map((batch) => ({
    ...batch,
    entries: batch.entries.map((one) => ({
      ...one,
      job: now(one.job),
      export: one.export && now(one.export),
    })),
  })),
});

/** The last file of each episode beside the others. */
export const useCatalogue = (show: number) =>
  useQuery({
    queryKey: ["catalogue", show],
    queryFn: () =>
      take(client.GET("/api/shows/{show_id}/catalogue", { params: { path: { show_id: show } } })),
  });

/** A job has come on: it is put where it stands in a batch; one that is not known there yet has the
 * batches read again. */
export function noteInBatches(queries: QueryClient, job: Job) {
  const ended = job.kind === "batch" && job.state === "done";
  if (job.kind === "export" && job.state === "done") {
    void queries.invalidateQueries({ queryKey: ["catalogue"] });
  }
  for (const [queryKey, old] of queries.getQueriesData<Batches>({ queryKey: ["batches"] })) {
    const entries = old?.batches.flatMap((batch) => batch.entries) ?? [];
    const known = entries.some((one) => one.job.id === job.id || one.export?.id === job.id);
    if (!old || ended || (!known && job.kind === "batch")) {
      void queries.invalidateQueries({ queryKey });
    } else if (known) {
      const put = (one: Job) => (one.id === job.id ? job : one);
      queries.setQueryData<Batches>(queryKey, withJobs(old, put));
    }
  }
}

/** What is at work on an entry, or was last. */
export const lastOf = ({ job, export: file }: BatchEntry): Job | null =>
  job.state === "done" ? file : job;

/** Whether it is being made, or waits for it. */
export const isLeft = (entry: BatchEntry) => {
  const last = lastOf(entry);
  return last !== null && underWay(last);
};

/** Seconds of work that so much sound will take, by what it took here before. */
export const workSeconds = (frames: number, pace: number | null) =>
  (frames / RATE) * (pace ?? USUAL_PACE);

/** How far a batch is, and how many frames of sound are still to be worked on. */
export function standing({ entries }: Batch) {
  const weight = (one: BatchEntry) => Math.max(one.frames, RATE);
  const done = (one: BatchEntry) => (isLeft(one) ? 0.9 * one.job.progress : 1);
  const whole = entries.reduce((sum, one) => sum + weight(one), 0);
  const left = entries.reduce((sum, one) => sum + (1 - done(one)) * weight(one), 0);
  return { done: whole ? 1 - left / whole : 1, left };
}

/** An id of 32 digits. Browsers give ready ones only where the address is secure. */
const newId = () =>
  [...crypto.getRandomValues(new Uint8Array(16))]
    .map((byte) => byte.toString(16).padStart(2, "0"))
    .join("");

export interface Wanted {
  recipe: Recipe;
  episodes: number[];
  /** Each becomes an episode, from a setup where one is chosen. */
  files: File[];
  setup: number | null;
}

/** Have episodes made, and send the files that become some. Goes on when its page is left. */
export async function startBatch(
  queries: QueryClient,
  show: number,
  { recipe, episodes, files, setup }: Wanted,
) {
  const batch = newId();
  const params = { path: { show_id: show } };
  if (episodes.length) {
    const body = { batch, recipe, episodes };
    await take(client.POST("/api/shows/{show_id}/batches", { params, body }));
    await queries.invalidateQueries({ queryKey: key(show) });
  }
  for (const file of files) await sendOne(show, file, setup, batch, recipe).catch(complain);
}

async function sendOne(
  show: number,
  file: File,
  setup: number | null,
  batch: string,
  recipe: Recipe,
) {
  const title = file.name.replace(/\.[^.]+$/, "").slice(0, 200) || "Episode";
  const { id } =
    setup === null ? await addEpisode(show, title) : (await beginEpisode(setup, title)).episode;
  const failed = (problem: Error) => {
    complain(problem);
    void leftOut(id);
  };
  await send(id, [file], failed, { batch, recipe: JSON.stringify(recipe) });
}

/** An episode whose file did not come is not left standing there, empty. */
export const leftOut = (episode: number) =>
  patchEpisode(episode, { deleted: true }).catch(complain);

export const cancelBatch = (show: number, batch: string) =>
  take(
    client.POST("/api/shows/{show_id}/batches/{batch}/cancel", {
      params: { path: { show_id: show, batch } },
    }),
  );

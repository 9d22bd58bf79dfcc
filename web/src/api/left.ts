/** How long work in the background will still take, by how far it came since it was first seen. */
import type { Job } from "./client";

/** An estimate is told once so much was seen: before that it is a guess. */
const LEAST_SEEN_MS = 4000;
const LEAST_DONE = 0.02;

const first = new Map<string, { at: number; progress: number }>();

export function noteProgress(job: Job) {
  if (job.state !== "running") first.delete(job.id);
  else if (!first.has(job.id)) first.set(job.id, { at: Date.now(), progress: job.progress });
}

/** In words, as in “about 3 min left”; nothing where it cannot be told yet. */
export function timeLeft(job: Job): string {
  const since = first.get(job.id);
  if (!since) return "";
  const took = Date.now() - since.at;
  const done = job.progress - since.progress;
  if (took < LEAST_SEEN_MS || done < LEAST_DONE) return "";
  return left((took * (1 - job.progress)) / done / 1000);
}

/** So many seconds, in words. */
export function left(seconds: number): string {
  const minutes = seconds / 60;
  if (minutes < 0.75) return "under a minute left";
  return `about ${Math.round(minutes)} min left`;
}

/** How far a job is: a job that waits says for what, and shows no percentage. `jobs` are those of its
 * episode; without one that runs, the work is on another episode. */
export function howFar(job: Job, jobs: readonly Job[] = []): string {
  if (job.state === "queued") {
    const before = jobs.find((other) => other.state === "running" && other.id !== job.id);
    return before ? `Waiting for “${before.title}”` : "Waiting for other work";
  }
  const time = timeLeft(job);
  return `${Math.round(job.progress * 100)} %${time && ` · ${time}`}`;
}

/** What a job does, and how far it is. */
export const progressText = (job: Job, jobs?: readonly Job[]) =>
  job.state === "queued" ? howFar(job, jobs) : `${job.doing} · ${howFar(job, jobs)}`;

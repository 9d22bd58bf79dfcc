/**
 * Work in the background. It is listed by requests and told of by the stream of events, and an
 * answer that was read before something happened may come after it was told: the newer one counts.
 */
import { client, type Job, take } from "./client";

const told = new Map<string, Job>();

const byAge = (a: Job, b: Job) => a.created_at.localeCompare(b.created_at);

/** What the stream has told last of a job, where that is newer. */
export function newest(job: Job): Job {
  const known = told.get(job.id);
  return known && known.updated_at > job.updated_at ? known : job;
}

/** Keep what the stream tells of a job. */
export const noteTold = (job: Job) => void told.set(job.id, job);

/** A list of jobs with one put in its place. */
export const withJob = (jobs: Job[], job: Job) =>
  [...jobs.filter((one) => one.id !== job.id), job].sort(byAge);

export const jobsKey = (episode: number) => ["jobs", episode] as const;

export const jobsOf = (id: number) => ({
  queryKey: jobsKey(id),
  queryFn: async () => {
    const before = new Map(told);
    const listed = await take(client.GET("/api/jobs", { params: { query: { episode_id: id } } }));
    // What is not listed is gone, unless it was told while the answer was on its way.
    const since = [...told.values()].filter(
      (job) =>
        job.episode_id === id &&
        before.get(job.id) !== job &&
        !listed.some((one) => one.id === job.id),
    );
    return [...listed.map(newest), ...since].sort(byAge);
  },
});

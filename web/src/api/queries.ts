/** What the server holds, as queries, and what changes it, as mutations. */
import {
  keepPreviousData,
  type QueryClient,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { complain } from "../theme/toaster";
import { client, type Edit, type Episode, Problem, take } from "./client";

export const keys = {
  shows: ["shows"] as const,
  episode: (id: number) => ["episode", id] as const,
  jobs: (id: number) => ["jobs", id] as const,
  unfinished: (id: number) => ["unfinished", id] as const,
  levels: (id: number, revision: number) => ["levels", id, revision] as const,
};

export const useShows = () =>
  useQuery({ queryKey: keys.shows, queryFn: () => take(client.GET("/api/shows")) });

export const useEpisode = (id: number) =>
  useQuery({
    queryKey: keys.episode(id),
    queryFn: () =>
      take(client.GET("/api/episodes/{episode_id}", { params: { path: { episode_id: id } } })),
  });

export const useJobs = (id: number) =>
  useQuery({
    queryKey: keys.jobs(id),
    queryFn: () => take(client.GET("/api/jobs", { params: { query: { episode_id: id } } })),
  });

export const useUnfinished = (id: number) =>
  useQuery({
    queryKey: keys.unfinished(id),
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/recordings", {
          params: { path: { episode_id: id } },
        }),
      ),
  });

export const useHistory = (id: number, revision: number) =>
  useQuery({
    queryKey: ["history", id, revision],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/history", { params: { path: { episode_id: id } } }),
      ),
  });

export const useLevels = (id: number, revision: number) =>
  useQuery({
    queryKey: keys.levels(id, revision),
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/levels", {
          params: { path: { episode_id: id }, query: { revision } },
        }),
      ),
  });

/** A changed episode goes into the cache; a stale edit brings in what stands now. */
function useEpisodeChange<Input>(id: number, change: (input: Input) => Promise<Episode>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    scope: { id: `episode-${id}` },
    onSuccess: (episode) => {
      queries.setQueryData(keys.episode(id), episode);
      queries.invalidateQueries({ queryKey: keys.shows });
    },
    onError: (error) => {
      complain(error);
      if (error instanceof Problem && error.status === 409) {
        queries.invalidateQueries({ queryKey: keys.episode(id) });
      }
    },
  });
}

/** The revision to make the next edit on: the newest the browser knows, read when it is sent. */
const revisionOf = (queries: QueryClient, id: number) =>
  queries.getQueryData<Episode>(keys.episode(id))?.revision ?? 0;

export function useEdit(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (edit: Edit) =>
    take(
      client.POST("/api/episodes/{episode_id}/edits", {
        params: { path: { episode_id: id } },
        body: { revision: revisionOf(queries, id), edit, snap: true },
      }),
    ),
  );
}

export function useStep(id: number, way: "undo" | "redo") {
  const queries = useQueryClient();
  return useEpisodeChange(id, (_: undefined) =>
    take(
      client.POST(`/api/episodes/{episode_id}/${way}`, {
        params: { path: { episode_id: id } },
        body: { revision: revisionOf(queries, id) },
      }),
    ),
  );
}

export function useEvenOut(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (_: undefined) =>
    take(
      client.POST("/api/episodes/{episode_id}/even-out", {
        params: { path: { episode_id: id } },
        body: { revision: revisionOf(queries, id) },
      }),
    ),
  );
}

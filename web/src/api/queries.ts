/** What the server holds, as queries, and what changes it, as mutations. */
import {
  keepPreviousData,
  type QueryClient,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { create } from "zustand";
import { complain } from "../theme/toaster";
import {
  type Chain,
  client,
  type Decision,
  type Edit,
  type Episode,
  Problem,
  type Schemas,
  type Snags,
  take,
} from "./client";
import { episodeKey, episodeOf } from "./episode";
import { jobsKey, jobsOf } from "./jobs";
import { putStretch } from "./stretch";

export const keys = {
  shows: ["shows"] as const,
  episode: episodeKey,
  jobs: jobsKey,
  unfinished: (id: number) => ["unfinished", id] as const,
  guests: (id: number) => ["guests", id] as const,
  levels: (id: number, revision: number) => ["levels", id, revision] as const,
};

export const useShows = () =>
  useQuery({ queryKey: keys.shows, queryFn: () => take(client.GET("/api/shows")) });

/** What can write down words on this machine: the same as long as it runs. */
export const useRecognisers = () =>
  useQuery({
    queryKey: ["recognisers"],
    queryFn: () => take(client.GET("/api/recognisers")),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const useEpisode = (id: number) => useQuery(episodeOf(id));

export const useJobs = (id: number) => useQuery(jobsOf(id));

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

export const useGuests = (id: number) =>
  useQuery({
    queryKey: keys.guests(id),
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/guests", { params: { path: { episode_id: id } } }),
      ),
  });

export const useScript = (id: number, revision: number) =>
  useQuery({
    queryKey: ["script", id, revision],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/script", {
          params: { path: { episode_id: id }, query: { revision } },
        }),
      ).then((script) => script.text),
  });

/** The room tone of a take, once its words are known. */
export const useRoomTone = (id: number, revision: number, takeId: string, transcribed: boolean) =>
  useQuery({
    queryKey: ["room-tone", id, revision, takeId, transcribed],
    placeholderData: keepPreviousData,
    enabled: transcribed,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/takes/{take_id}/room-tone", {
          params: { path: { episode_id: id, take_id: takeId }, query: { revision } },
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

/** How long it last took to look for snags. */
let lookedMs = 0;

export const snagsOf = (id: number, revision: number) => ({
  queryKey: ["snags", id, revision] as const,
  queryFn: async () => {
    const began = performance.now();
    const found = await take(
      client.GET("/api/episodes/{episode_id}/snags", {
        params: { path: { episode_id: id }, query: { revision } },
      }),
    );
    lookedMs = performance.now() - began;
    return found;
  },
});

/** They are looked for when edits have come to rest: the longer it takes, the longer the rest. */
const settledMs = () => Math.max(500, 2 * lookedMs);

/** The snags of an episode; while they are looked for anew, those of before. */
export function useSnags(id: number, revision: number) {
  const queries = useQueryClient();
  const known = queries.getQueryData(snagsOf(id, revision).queryKey) !== undefined;
  const [settled, setSettled] = useState(revision);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(revision), settledMs());
    return () => clearTimeout(timer);
  }, [revision]);
  return useQuery({
    ...snagsOf(id, known ? revision : settled),
    // Those of a long episode are many: only a few states' are kept, and none is held against another.
    structuralSharing: false,
    gcTime: 10_000,
    placeholderData: (last: Snags | undefined, query) =>
      query?.queryKey[1] === id ? last : undefined,
  });
}

interface Stale {
  sentence: string;
  again: () => void;
}

/** A change that was refused, since the episode had moved on; it waits for the host's word. */
export const useStale = create<{ waiting: Stale | null }>(() => ({ waiting: null }));

type Stretch = Schemas["Stretch"];
type Changed = Schemas["ChangedView"];

/** What is in view of the Page. It comes with the answer to a change, so that all of it changes at
 * once. */
export const inView: { stretches: (episode: number) => Stretch[] } = { stretches: () => [] };

/** A changed episode goes into the cache; a stale edit brings in what stands now. */
function useEpisodeChange<Input>(id: number, change: (input: Input) => Promise<Changed>) {
  const queries = useQueryClient();
  const made = useMutation({
    mutationFn: change,
    scope: { id: `episode-${id}` },
    onSuccess: ({ stretches, ...episode }) => {
      for (const stretch of stretches) putStretch(queries, id, stretch);
      // What was asked for before the change and comes after it would bring back what stood then.
      void queries.cancelQueries({ queryKey: keys.episode(id) });
      queries.setQueryData(keys.episode(id), episode);
      queries.invalidateQueries({ queryKey: keys.shows });
    },
    onError: (error, input) => {
      const stale =
        error instanceof Problem &&
        error.status === 409 &&
        typeof error.known.revision === "number";
      if (!stale) return complain(error);
      // What stands now is shown first; the host says whether the change is still meant.
      void queries
        .invalidateQueries({ queryKey: keys.episode(id) })
        .then(() =>
          useStale.setState({ waiting: { sentence: error.message, again: () => again(input) } }),
        );
    },
  });
  const again = (input: Input) => made.mutate(input);
  return made;
}

/** The revision to make the next edit on, the newest the browser knows, and what is in view of it;
 * read when it is sent. */
const seenOf = (queries: QueryClient, id: number) => ({
  revision: queries.getQueryData<Episode>(keys.episode(id))?.revision ?? 0,
  shown: inView.stretches(id),
});

export function useEdit(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (edit: Edit) =>
    take(
      client.POST("/api/episodes/{episode_id}/edits", {
        params: { path: { episode_id: id } },
        body: { ...seenOf(queries, id), edit, snap: true },
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
        body: seenOf(queries, id),
      }),
    ),
  );
}

/** Settle snags. */
export function useDecide(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (decisions: Decision[]) =>
    take(
      client.POST("/api/episodes/{episode_id}/snags", {
        params: { path: { episode_id: id } },
        body: { ...seenOf(queries, id), decisions },
      }),
    ),
  );
}

/** Let a snag that was kept be decided again. */
export function useReopen(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (snag: string) =>
    take(
      client.POST("/api/episodes/{episode_id}/snags/reopen", {
        params: { path: { episode_id: id } },
        body: { ...seenOf(queries, id), decisions: [{ id: snag, do: "keep", attempt: -1 }] },
      }),
    ),
  );
}

/** Correct every word that is written like one. */
export function useCorrectAll(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (words: { old: string; new: string }) =>
    take(
      client.POST("/api/episodes/{episode_id}/correct-all", {
        params: { path: { episode_id: id } },
        body: { ...seenOf(queries, id), ...words },
      }),
    ),
  );
}

/** Write the words that were said as the script writes them. */
export function useScriptSpelling(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (_: undefined) =>
    take(
      client.POST("/api/episodes/{episode_id}/script/spelling", {
        params: { path: { episode_id: id } },
        body: seenOf(queries, id),
      }),
    ),
  );
}

/** Settle in one step all that a pass settles. */
export function useTidy(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (how: Schemas["TidyRequest"]["how"]) =>
    take(
      client.POST("/api/episodes/{episode_id}/tidy", {
        params: { path: { episode_id: id } },
        body: { ...seenOf(queries, id), how },
      }),
    ),
  );
}

/** Go to any state of the history. */
export function useJump(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (to: number) =>
    take(
      client.POST("/api/episodes/{episode_id}/jump", {
        params: { path: { episode_id: id } },
        body: { ...seenOf(queries, id), to },
      }),
    ),
  );
}

/** The episode as its document was at a revision. */
export const useEpisodeAt = (id: number, revision: number, wanted: boolean) =>
  useQuery({
    queryKey: ["episode-at", id, revision],
    enabled: wanted,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}", {
          params: { path: { episode_id: id }, query: { revision } },
        }),
      ),
  });

export function useEvenOut(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (_: undefined) =>
    take(
      client.POST("/api/episodes/{episode_id}/even-out", {
        params: { path: { episode_id: id } },
        body: seenOf(queries, id),
      }),
    ),
  );
}

export function useFindSections(id: number) {
  const queries = useQueryClient();
  return useEpisodeChange(id, (_: undefined) =>
    take(
      client.POST("/api/episodes/{episode_id}/sections", {
        params: { path: { episode_id: id } },
        body: seenOf(queries, id),
      }),
    ),
  );
}

/** What a track measures, and what would help. */
export const useSound = (id: number, revision: number, track: string) =>
  useQuery({
    queryKey: ["sound", id, revision, track],
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/sound", {
          params: { path: { episode_id: id }, query: { revision, track } },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });

/** What a chain does, to be drawn. */
export const useCurves = (chain: Chain) =>
  useQuery({
    queryKey: ["curves", chain],
    queryFn: () => take(client.POST("/api/sound/curves", { body: { chain } })),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
  });

export const useChains = () =>
  useQuery({ queryKey: ["chains"], queryFn: () => take(client.GET("/api/chains")) });

/** Start work that ends in a change of the episode or in files beside it. */
export const startClean = (id: number, revision: number) =>
  client.POST("/api/episodes/{episode_id}/clean", {
    params: { path: { episode_id: id } },
    body: { revision },
  });

export const startMeasure = (id: number, revision: number) =>
  take(
    client.POST("/api/episodes/{episode_id}/measure", {
      params: { path: { episode_id: id } },
      body: { revision },
    }),
  );

export const startRide = (id: number, body: Schemas["RideRequest"]) =>
  take(
    client.POST("/api/episodes/{episode_id}/ride", { params: { path: { episode_id: id } }, body }),
  );

/** Stop a job, or do it once more. */
export const cancelJob = (id: string) =>
  take(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: id } } }));
export const againJob = (id: string) =>
  take(client.POST("/api/jobs/{job_id}/again", { params: { path: { job_id: id } } }));

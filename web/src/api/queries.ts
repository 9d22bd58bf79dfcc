/** What the server holds, as queries, and what changes it, as mutations. */
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { create } from "zustand";
import { complain } from "../theme/toaster";
import { changes, type Press } from "./changes";
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
import { noteContent } from "./content";
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

/** Why a change was refused: the episode was changed meanwhile. Null when the host has read it. */
export const useRefused = create<{ sentence: string | null }>(() => ({ sentence: null }));

type Stretch = Schemas["Stretch"];
type Changed = Schemas["ChangedView"];
type Body = Schemas["ChangeRequest"];

/** What is in view of the Page. It comes with the answer to a change, so that all of it changes at
 * once. */
export const inView: { stretches: (episode: number) => Stretch[] } = { stretches: () => [] };

/** How a change is made, where it differs from the usual. */
export interface How {
  /** Revision of the frames in the change, if it is not the one on the screen. */
  on?: number | undefined;
  /** Called when the change was made exactly on that revision. */
  after?: ((revision: number) => void) | undefined;
  /** Called when the change was made, and in the end in any case. */
  done?: () => void;
  settled?: () => void;
}

interface Asked<Input> extends How {
  input: Input;
  press: Press;
}

/**
 * A change of the episode. It is sent with the revision that the host saw at the key press. The
 * changed episode goes into the cache. A refusal is shown, and with it the episode as it is now.
 * `step`: the change steps through the history, so that own changes before it count as seen.
 */
function useEpisodeChange<Input>(
  id: number,
  change: (input: Input, body: Body) => Promise<Changed>,
  step = false,
) {
  const queries = useQueryClient();
  const made = useMutation({
    mutationFn: async ({ input, press, on, after }: Asked<Input>) => {
      const revision = step ? changes.stepFrom(press) : (on ?? press.revision);
      const places = changes.marks(id);
      const shown = inView.stretches(id);
      const changed = await change(input, { revision, shown, marks: places.marks });
      noteContent(changed);
      changes.succeeded(changed.revision);
      places.moved(changed.revision, changed.marks);
      if (changed.before === revision) after?.(changed.revision);
      return changed;
    },
    scope: { id: `episode-${id}` },
    onSuccess: ({ stretches, marks: _, ...episode }, { done }) => {
      for (const stretch of stretches) putStretch(queries, id, stretch);
      // What was asked for before the change and comes after it would bring back what stood then.
      void queries.cancelQueries({ queryKey: keys.episode(id) });
      queries.setQueryData(keys.episode(id), episode);
      queries.invalidateQueries({ queryKey: keys.shows });
      done?.();
    },
    onSettled: (_data, _error, { settled }) => settled?.(),
    onError: (error) => {
      changes.failed();
      const stale =
        error instanceof Problem &&
        error.status === 409 &&
        typeof error.known.revision === "number";
      if (!stale) return complain(error);
      void queries
        .invalidateQueries({ queryKey: keys.episode(id) })
        .then(() => useRefused.setState({ sentence: error.message }));
    },
  });
  const { mutate: send, mutateAsync: sendAsync } = made;
  const asked = useCallback(
    (input: Input, how: How = {}): Asked<Input> => {
      const known = queries.getQueryData<Episode>(keys.episode(id))?.revision ?? 0;
      return { ...how, input, press: changes.press(changes.shown(id) ?? known) };
    },
    [id, queries],
  );
  const mutate = useCallback((input: Input, how?: How) => send(asked(input, how)), [send, asked]);
  const mutateAsync = useCallback(
    (input: Input, how?: How) => sendAsync(asked(input, how)),
    [sendAsync, asked],
  );
  return { ...made, mutate, mutateAsync };
}

export function useEdit(id: number) {
  return useEpisodeChange(id, (edit: Edit, body) =>
    take(
      client.POST("/api/episodes/{episode_id}/edits", {
        params: { path: { episode_id: id } },
        body: { ...body, own: changes.ownSince(body.revision), edit, snap: true },
      }),
    ),
  );
}

export function useStep(id: number, way: "undo" | "redo") {
  return useEpisodeChange(
    id,
    (_: undefined, body) =>
      take(
        client.POST(`/api/episodes/{episode_id}/${way}`, {
          params: { path: { episode_id: id } },
          body,
        }),
      ),
    true,
  );
}

/** Settle snags. */
export function useDecide(id: number) {
  return useEpisodeChange(id, (decisions: Decision[], body) =>
    take(
      client.POST("/api/episodes/{episode_id}/snags", {
        params: { path: { episode_id: id } },
        body: { ...body, decisions },
      }),
    ),
  );
}

/** Let a snag that was kept be decided again. */
export function useReopen(id: number) {
  return useEpisodeChange(id, (snag: string, body) =>
    take(
      client.POST("/api/episodes/{episode_id}/snags/reopen", {
        params: { path: { episode_id: id } },
        body: { ...body, decisions: [{ id: snag, do: "keep", attempt: -1 }] },
      }),
    ),
  );
}

/** Correct every word that is written like one. */
export function useCorrectAll(id: number) {
  return useEpisodeChange(id, (words: { old: string; new: string }, body) =>
    take(
      client.POST("/api/episodes/{episode_id}/correct-all", {
        params: { path: { episode_id: id } },
        body: { ...body, ...words },
      }),
    ),
  );
}

/** Write the words that were said as the script writes them. */
export function useScriptSpelling(id: number) {
  return useEpisodeChange(id, (_: undefined, body) =>
    take(
      client.POST("/api/episodes/{episode_id}/script/spelling", {
        params: { path: { episode_id: id } },
        body,
      }),
    ),
  );
}

/** Settle in one step all that a pass settles. */
export function useTidy(id: number) {
  return useEpisodeChange(id, (how: Schemas["TidyRequest"]["how"], body) =>
    take(
      client.POST("/api/episodes/{episode_id}/tidy", {
        params: { path: { episode_id: id } },
        body: { ...body, how },
      }),
    ),
  );
}

/** Go to any state of the history. */
export function useJump(id: number) {
  return useEpisodeChange(id, (to: number, body) =>
    take(
      client.POST("/api/episodes/{episode_id}/jump", {
        params: { path: { episode_id: id } },
        body: { ...body, to },
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
  return useEpisodeChange(id, (_: undefined, body) =>
    take(
      client.POST("/api/episodes/{episode_id}/even-out", {
        params: { path: { episode_id: id } },
        body,
      }),
    ),
  );
}

export function useFindSections(id: number) {
  return useEpisodeChange(id, (_: undefined, body) =>
    take(
      client.POST("/api/episodes/{episode_id}/sections", {
        params: { path: { episode_id: id } },
        body,
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

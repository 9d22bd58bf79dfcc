/** The setups of a show: what its episodes begin from. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { complain } from "../theme/toaster";
import { client, Problem, type Schemas, take } from "./client";
import { keys } from "./queries";
import { beginEpisode } from "./shelf";

export type Setup = Schemas["SetupView"];
export type SetupRow = Setup["setup"]["rows"][number];

const key = (show: number) => ["setups", show] as const;

export const useSetups = (show: number) =>
  useQuery({
    queryKey: key(show),
    queryFn: () =>
      take(client.GET("/api/shows/{show_id}/setups", { params: { path: { show_id: show } } })),
  });

/** A change of the setups; they are read again, with what stands on the shelf. */
function useSetupChange<Input, Output>(show: number, change: (input: Input) => Promise<Output>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: key(show) });
      void queries.invalidateQueries({ queryKey: keys.shows });
    },
    onError: complain,
  });
}

export const useChangeSetup = (show: number) =>
  useSetupChange(show, ({ id, ...body }: { id: number } & Schemas["SetupChange"]) =>
    take(client.PATCH("/api/setups/{setup_id}", { params: { path: { setup_id: id } }, body })),
  );

export const useBegin = (show: number) =>
  useSetupChange(show, ({ id, title }: { id: number; title: string }) => beginEpisode(id, title));

export const useKeepSetup = (show: number, episode: number) =>
  useSetupChange(show, (body: Schemas["NewSetup"]) =>
    take(
      client.POST("/api/episodes/{episode_id}/setup", {
        params: { path: { episode_id: episode } },
        body,
      }),
    ),
  );

export const useOpenSetup = (show: number) =>
  useSetupChange(show, async (file: File): Promise<Setup> => {
    const answer = await fetch(`/api/shows/${show}/setups/file`, { method: "POST", body: file });
    const told = await answer.json();
    if (!answer.ok) throw new Problem(told.sentence ?? "It did not open.", answer.status);
    return told;
  });

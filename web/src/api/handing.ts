/** Where a show's files go, and how far each is. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { complain } from "../theme/toaster";
import { client, type Episode, type Schemas, take } from "./client";

export type Destination = Schemas["DestinationView"];
export type HandOver = Schemas["HandOverView"];
export type Way = Schemas["WayView"];

const destinationsKey = (show: number) => ["destinations", show] as const;
const handOversKey = (episode: number) => ["hand_overs", episode] as const;

export const useDestinations = (show: number) =>
  useQuery({
    queryKey: destinationsKey(show),
    queryFn: () =>
      take(
        client.GET("/api/shows/{show_id}/destinations", { params: { path: { show_id: show } } }),
      ),
  });

export const useHandOvers = (episode: number) =>
  useQuery({
    queryKey: handOversKey(episode),
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/hand-overs", {
          params: { path: { episode_id: episode } },
        }),
      ),
  });

export function useKeepDestination(show: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["NewDestination"]) =>
      take(
        client.POST("/api/shows/{show_id}/destinations", {
          params: { path: { show_id: show } },
          body,
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: destinationsKey(show) }),
    onError: complain,
  });
}

export function useDropDestination(show: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (destination_id: number) =>
      take(
        client.DELETE("/api/destinations/{destination_id}", {
          params: { path: { destination_id } },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: destinationsKey(show) }),
    onError: complain,
  });
}

/** What is done with files and drafts; how they stand is read again afterwards. */
export function useHandingOver(episode: Episode) {
  const queries = useQueryClient();
  const onSuccess = () => queries.invalidateQueries({ queryKey: handOversKey(episode.id) });
  const told = { onSuccess, onError: complain };
  const send = useMutation({
    mutationFn: (body: Schemas["HandOverRequest"]) =>
      take(
        client.POST("/api/episodes/{episode_id}/hand-overs", {
          params: { path: { episode_id: episode.id } },
          body,
        }),
      ),
    ...told,
  });
  const again = useMutation({
    mutationFn: (hand_over_id: string) =>
      take(
        client.POST("/api/hand-overs/{hand_over_id}/again", { params: { path: { hand_over_id } } }),
      ),
    ...told,
  });
  const publish = useMutation({
    mutationFn: (hand_over_id: string) =>
      take(
        client.POST("/api/hand-overs/{hand_over_id}/publish", {
          params: { path: { hand_over_id } },
        }),
      ),
    ...told,
  });
  const schedule = useMutation({
    mutationFn: ({ id, at }: { id: string; at: string | null }) =>
      take(
        client.POST("/api/hand-overs/{hand_over_id}/schedule", {
          params: { path: { hand_over_id: id } },
          body: { at },
        }),
      ),
    ...told,
  });
  return { send, again, publish, schedule };
}

/** An episode as a query. */
import { client, take } from "./client";

export const episodeKey = (id: number) => ["episode", id] as const;

export const episodeOf = (id: number) => ({
  queryKey: episodeKey(id),
  queryFn: () =>
    take(client.GET("/api/episodes/{episode_id}", { params: { path: { episode_id: id } } })),
});

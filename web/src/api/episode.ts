/** An episode as a query. */
import { client, take } from "./client";
import { noteContent } from "./content";

export const episodeKey = (id: number) => ["episode", id] as const;

export const episodeOf = (id: number) => ({
  queryKey: episodeKey(id),
  // What was asked for a moment ago is not asked for again; changes are told by events.
  staleTime: 5_000,
  queryFn: async () => {
    const episode = await take(
      client.GET("/api/episodes/{episode_id}", { params: { path: { episode_id: id } } }),
    );
    noteContent(episode);
    return episode;
  },
});

/** Changes of the shelf, as requests. */
import { client, type Schemas, take } from "./client";

type Change = Schemas["ShelfChange"];

export const patchShow = (id: number, body: Change) =>
  take(client.PATCH("/api/shows/{show_id}", { params: { path: { show_id: id } }, body }));

export const patchEpisode = (id: number, body: Schemas["EpisodeChange"]) =>
  take(client.PATCH("/api/episodes/{episode_id}", { params: { path: { episode_id: id } }, body }));

/** A new episode with nothing in it. */
export const addEpisode = (show: number, title: string) =>
  take(
    client.POST("/api/shows/{show_id}/episodes", {
      params: { path: { show_id: show } },
      body: { title },
    }),
  );

/** A new episode that begins from a setup. */
export const beginEpisode = (setup: number, title: string) =>
  take(
    client.POST("/api/setups/{setup_id}/episodes", {
      params: { path: { setup_id: setup } },
      body: { title },
    }),
  );

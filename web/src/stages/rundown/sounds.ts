/** The shelf of sounds, and what placing one from it means. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Edit, type Episode, RATE, type Schemas, take } from "../../api/client";
import { complain } from "../../theme/toaster";

export type ShelfSound = Schemas["ShelfSound"];
export type Placed = Schemas["PlacedView"];
export type Holding = Schemas["Hold"]["kind"];

export const SOUND_KINDS: Record<ShelfSound["kind"], string> = {
  opening: "Opening",
  closing: "Closing",
  bed: "Bed",
  sting: "Sting",
  notice: "Notice",
  other: "Other",
};

/** Where a sound can be put, as a host says it. */
export const HOLDS: Record<Holding, string> = {
  before_talk: "Before the talk",
  after_talk: "After the talk",
  under: "Under the part",
  between: "Before the next part",
  time: "At a time",
};

/** Where a sound goes that is let go on a row. */
export const USUAL: Record<ShelfSound["kind"], Holding> = {
  opening: "before_talk",
  closing: "after_talk",
  bed: "under",
  sting: "between",
  notice: "between",
  other: "under",
};

/** The type under which a sound's id is dragged. */
export const DRAGGED_SOUND = "application/x-airtrim-sound";

const key = (episode: number) => ["sounds", episode] as const;

export const useShelf = (episode: Episode) =>
  useQuery({
    queryKey: key(episode.id),
    queryFn: () =>
      take(
        client.GET("/api/shows/{show_id}/sounds", {
          params: { path: { show_id: episode.show_id } },
        }),
      ),
  });

/** A change of the shelf; what stands on it is read again. */
function useShelfChange<Input>(episode: Episode, change: (input: Input) => Promise<unknown>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => queries.invalidateQueries({ queryKey: key(episode.id) }),
    onError: complain,
  });
}

export const useAddShipped = (episode: Episode) =>
  useShelfChange(episode, (_: undefined) =>
    take(
      client.POST("/api/shows/{show_id}/sounds/shipped", {
        params: { path: { show_id: episode.show_id } },
      }),
    ),
  );

export const useChangeSound = (episode: Episode) =>
  useShelfChange(episode, ({ id, ...body }: { id: string } & Schemas["SoundChange"]) =>
    take(client.PATCH("/api/sounds/{sound_id}", { params: { path: { sound_id: id } }, body })),
  );

/** The sound as a recording of the episode. */
export const used = (episode: number, sound: string) =>
  take(
    client.POST("/api/episodes/{episode_id}/sounds/{sound_id}", {
      params: { path: { episode_id: episode, sound_id: sound } },
    }),
  );

const s = (seconds: number) => Math.round(seconds * RATE);

/** Down before the first word, and not up again before the sound is over. */
const UNDER = { depth_db: 14, attack: s(0.5), hold: s(10), release: s(1.5) };
const ALONE_LU = -4;
const UNDER_LU = -18;

/** What is shorter is heard alone as a whole. */
const alone = (frames: number) => Math.min(s(8), Math.round(frames * 0.6));

/** The usual way of each place: music alone, 18 LU under the first or last words, gone after eight
 * seconds. All of it can be changed afterwards. */
function usual(holding: Holding, frames: number) {
  switch (holding) {
    case "before_talk": {
      const first = alone(frames);
      const under = Math.min(frames - first, s(8));
      return {
        offset: under,
        frames: first + under,
        alone_frames: first,
        level_lu: ALONE_LU,
        duck: UNDER,
        fade_out: Math.min(under, s(4)),
      };
    }
    case "after_talk":
      return {
        offset: -s(4),
        frames: Math.min(frames, s(20)),
        level_lu: ALONE_LU,
        duck: UNDER,
        fade_in: s(1.5),
        fade_out: s(3),
      };
    case "under":
      return { level_lu: UNDER_LU, fade_in: s(2), fade_out: s(3) };
    case "between":
      return { level_lu: ALONE_LU, alone_frames: frames };
    case "time":
      return { level_lu: ALONE_LU };
  }
}

/** The edit that places a sound of the shelf; `at` is where it begins, where it holds to a time. */
export function placing(
  sound: ShelfSound,
  recording: Schemas["UsedSound"],
  holding: Holding,
  part: string,
  at: number,
): Edit {
  const { offset = 0, ...rest } = usual(holding, sound.end - sound.start) as {
    offset?: number;
  };
  return {
    kind: "place_sound",
    take: recording.take,
    take_frames: recording.frames,
    name: sound.name,
    start: sound.start,
    frames: sound.end - sound.start,
    hold: holding === "time" ? { kind: "time", at } : { kind: holding, part, offset },
    ...rest,
  };
}

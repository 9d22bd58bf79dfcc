/** The clip under the playhead, on the track that is acted on: all that can be dragged, typed. */
import { Button, HStack, SimpleGrid, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { Context } from "../../actions/action";
import { trackOf } from "../../actions/selection";
import { type Clip, client, RATE, take } from "../../api/client";
import { SHAPES } from "../../page/SpliceMark";
import { usePlayer } from "../../playback/player";
import { GAIN_DB, NumberField } from "../../theme/fields/NumberField";
import { TimeField } from "../../theme/fields/TimeField";
import { named, Pick } from "../../theme/Pick";
import { seconds } from "../../time";
import { useView } from "../../view/view";
import { Card } from "../Panel";
import { SoundCard } from "../rundown/PlacedSound";
import { useRundown } from "../rundown/parts";
import type { Placed } from "../rundown/sounds";

export function ClipCard({ context }: { context: Context }) {
  const { episode } = context;
  const at = usePlayer((p) => p.at);
  const chosen = useView((v) => v.track);
  const track = chosen && episode.tracks.some((t) => t.id === chosen) ? chosen : trackOf(episode);
  const { data } = useQuery({
    queryKey: ["clip", episode.id, episode.revision, at],
    // A field that is typed into stays while the answer is under way.
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/page", {
          params: {
            path: { episode_id: episode.id },
            query: { revision: episode.revision, start: at, frames: 1 },
          },
        }),
      ),
  });
  const clip = data?.clips.find((c) => c.track === track);
  const placed = data?.sounds.find(
    ({ sound, at: begins, length }) =>
      clip && sound.take === clip.take && begins !== null && at >= begins && at < begins + length,
  );
  const held = episode.tracks.find((t) => t.id === track)?.held;
  if (held) return placed ? <Held context={context} placed={placed} /> : null;
  if (!clip || clip.frames === episode.frames) return null;
  return <Opened key={`${clip.track}:${clip.start}`} context={context} clip={clip} />;
}

/** A placed sound under the playhead: it has no clips of its own, but what it holds on to. */
function Held({ context, placed }: { context: Context; placed: Placed }) {
  const { episode, edit } = context;
  const { data } = useRundown(episode.id, episode.revision);
  return (
    <>
      <Text fontSize="13px" fontWeight="700" truncate>
        {placed.sound.name}
      </Text>
      <SoundCard placed={placed} rows={data?.rows ?? []} onEdit={edit} />
    </>
  );
}

function Opened({ context, clip }: { context: Context; clip: Clip }) {
  const { episode, edit } = context;
  const name = episode.takes.find((t) => t.id === clip.take)?.name;
  const place = { track: clip.track, at: clip.start };
  const end = clip.start + clip.frames;
  const fade = (which: "fade_in" | "fade_out", seconds: number) =>
    edit({
      kind: "set_clip",
      ...place,
      [which]: Math.min(Math.round(seconds * RATE), clip.frames),
    });
  const number = { size: "2xs", w: "50px", px: "1" } as const;
  const length = { low: 0, high: Math.ceil((clip.frames / RATE) * 100) / 100 };
  return (
    <Card data-testid="clip">
      <Text fontSize="12px" color="quiet">
        The clip under the playhead
      </Text>
      <Text fontSize="13px" fontWeight="700" truncate>
        {clip.tone ? "Room tone" : (name ?? "Clip")}
      </Text>
      <SimpleGrid gridTemplateColumns="58px 1fr" gap="1" mt="1" alignItems="center" fontSize="12px">
        <Text>Begins</Text>
        <HStack gap="1">
          <TimeField
            label="Where the clip begins"
            at={clip.start}
            onSet={(to) => edit({ kind: "move_clip", ...place, to_track: clip.track, to })}
          />
          <Pick
            name="Track of the clip"
            w="118px"
            value={clip.track}
            options={episode.tracks.map((t) => [t.id, `on ${t.name}`] as const)}
            onPick={(to_track) => edit({ kind: "move_clip", ...place, to_track, to: clip.start })}
          />
        </HStack>
        <Text>Ends</Text>
        <HStack gap="1">
          <TimeField
            label="Where the clip ends"
            at={end}
            onSet={(to) => edit({ kind: "trim_clip", ...place, start: clip.start, end: to })}
          />
          <Button
            size="2xs"
            variant="ghost"
            title="Move the clip so that it ends at the playhead"
            onClick={() =>
              edit({
                kind: "move_clip",
                ...place,
                to_track: clip.track,
                to: Math.max(0, usePlayer.getState().at - clip.frames),
              })
            }
          >
            End it at the playhead
          </Button>
        </HStack>
        <Text>Fades</Text>
        <HStack gap="1">
          <NumberField
            {...number}
            label="Fade in, seconds"
            {...length}
            value={Number((clip.fade_in / RATE).toFixed(2))}
            onSet={(t) => fade("fade_in", t)}
          />
          <NumberField
            {...number}
            label="Fade out, seconds"
            {...length}
            value={Number((clip.fade_out / RATE).toFixed(2))}
            onSet={(t) => fade("fade_out", t)}
          />
          <Pick
            name="Shape of the fades"
            w="90px"
            value={clip.shape_in}
            options={named(SHAPES)}
            onPick={(shape) =>
              edit({ kind: "set_clip", ...place, shape_in: shape, shape_out: shape })
            }
          />
        </HStack>
        <Text>Gain</Text>
        <HStack gap="1">
          <NumberField
            {...number}
            label="Gain of the clip, dB"
            value={clip.gain_db}
            {...GAIN_DB}
            onSet={(gain_db) => edit({ kind: "set_clip", ...place, gain_db })}
          />
          <Text>dB · {seconds(clip.frames)}</Text>
        </HStack>
      </SimpleGrid>
    </Card>
  );
}

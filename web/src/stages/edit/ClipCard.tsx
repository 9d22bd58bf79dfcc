/** The clip under the playhead, on the track that is acted on: all that can be dragged, typed. */
import { Button, HStack, Input, SimpleGrid, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import type { Context } from "../../actions/action";
import { trackOf } from "../../actions/selection";
import { type Clip, client, RATE, take } from "../../api/client";
import { SHAPES } from "../../page/SpliceMark";
import { usePlayer } from "../../playback/player";
import { named, Pick } from "../../theme/Pick";
import { seconds } from "../../time";
import { useView } from "../../view/view";
import { Card } from "../Panel";
import { Time } from "./Selected";

export function ClipCard({ context }: { context: Context }) {
  const { episode } = context;
  const at = usePlayer((p) => p.at);
  const chosen = useView((v) => v.track);
  const track = chosen && episode.tracks.some((t) => t.id === chosen) ? chosen : trackOf(episode);
  const { data } = useQuery({
    queryKey: ["clip", episode.id, episode.revision, at],
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
  if (!clip || clip.frames === episode.frames) return null;
  return <Opened key={`${clip.track}:${clip.start}`} context={context} clip={clip} />;
}

function Opened({ context, clip }: { context: Context; clip: Clip }) {
  const { episode, edit } = context;
  const name = episode.takes.find((t) => t.id === clip.take)?.name;
  const place = { track: clip.track, at: clip.start };
  const end = clip.start + clip.frames;
  const fade = (which: "fade_in" | "fade_out", text: string) => {
    const frames = Math.round(Number(text.replace(",", ".")) * RATE);
    if (frames >= 0) edit({ kind: "set_clip", ...place, [which]: Math.min(frames, clip.frames) });
  };
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
          <Time
            name="Where the clip begins"
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
          <Time
            name="Where the clip ends"
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
          <Typed
            name="Fade in, seconds"
            value={clip.fade_in / RATE}
            onSet={(t) => fade("fade_in", t)}
          />
          <Typed
            name="Fade out, seconds"
            value={clip.fade_out / RATE}
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
          <Typed
            name="Gain of the clip, dB"
            value={clip.gain_db}
            onSet={(text) => {
              const gain_db = Number(text.replace(",", ".").replace("−", "-"));
              if (Number.isFinite(gain_db)) edit({ kind: "set_clip", ...place, gain_db });
            }}
          />
          <Text>dB · {seconds(clip.frames)}</Text>
        </HStack>
      </SimpleGrid>
    </Card>
  );
}

interface TypedProps {
  name: string;
  value: number;
  onSet: (text: string) => void;
}

/** A number that can be typed. */
export function Typed({ name, value, onSet }: TypedProps) {
  const shown = String(Math.round(value * 100) / 100).replace("-", "−");
  return (
    <Input
      key={shown}
      size="2xs"
      w="50px"
      px="1"
      aria-label={name}
      title={name}
      defaultValue={shown}
      onBlur={(event) => event.target.value !== shown && onSet(event.target.value)}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}

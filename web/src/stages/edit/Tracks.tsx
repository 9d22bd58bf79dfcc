/** The tracks: name, colour, gain, mute, solo, order; add one, or take one out. */
import { Box, Button, Flex, HStack, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { ArrowDown, ArrowUp, Trash2 } from "lucide-react";
import type { Context } from "../../actions/action";
import { trackOf } from "../../actions/selection";
import type { Episode } from "../../api/client";
import { COLOURS, type Colour, inkOf, swatch } from "../../theme/colours";
import { GAIN_DB, NumberField } from "../../theme/fields/NumberField";
import { TextField } from "../../theme/fields/TextField";
import { useMode } from "../../theme/mode";
import { Toggle } from "../../theme/Toggle";
import { useView } from "../../view/view";
import { ClipCard } from "./ClipCard";

type Track = Episode["tracks"][number];

const COLOUR_NAMES: Record<Colour, string> = {
  pine: "Pine",
  violet: "Violet",
  ochre: "Ochre",
  slate: "Slate",
  rose: "Rose",
  moss: "Moss",
};

export function Tracks({ context }: { context: Context }) {
  const { episode, edit } = context;
  const showGain = useView((v) => v.showGain);
  return (
    <Box data-testid="tracks">
      {episode.tracks.map((track, index) => (
        <TrackRow key={track.id} context={context} track={track} index={index} />
      ))}
      <HStack mt="3" mb="4" gap="2" wrap="wrap">
        <Button
          size="xs"
          variant="outline"
          onClick={() => edit({ kind: "add_track", name: unused(episode), track_kind: "voice" })}
        >
          Add a track
        </Button>
        <Button
          size="xs"
          variant="outline"
          aria-pressed={showGain}
          title="Draw each track’s gain over its sound; double click the line for a point (V)"
          onClick={() => useView.setState({ showGain: !showGain })}
        >
          {showGain ? "Hide gain lines" : "Show gain lines"}
        </Button>
      </HStack>
      <ClipCard context={context} />
    </Box>
  );
}

function unused(episode: Episode) {
  const names = new Set(episode.tracks.map((t) => t.name));
  let number = episode.tracks.length + 1;
  while (names.has(`Track ${number}`)) number += 1;
  return `Track ${number}`;
}

interface RowProps {
  context: Context;
  track: Track;
  index: number;
}

function TrackRow({ context, track, index }: RowProps) {
  const { episode, edit } = context;
  const mode = useMode((m) => m.mode);
  const chosen = useView((v) => v.track);
  const here = (chosen ?? trackOf(episode)) === track.id;
  const ink = inkOf(episode.tracks, track.id, mode);
  const set = (change: Partial<Pick<Track, "name" | "colour" | "gain_db" | "muted" | "soloed">>) =>
    edit({ kind: "set_track", track: track.id, ...change });
  const swap = (by: number) => {
    const order = episode.tracks.map((t) => t.id);
    const [moved] = order.splice(index, 1);
    if (moved) order.splice(index + by, 0, moved);
    edit({ kind: "order_tracks", tracks: order });
  };
  return (
    <Box
      py="2"
      borderBottomWidth="1px"
      borderColor="rule"
      borderLeftWidth="4px"
      borderLeftColor={ink.body}
      pl="2"
      bg={here ? "wash" : undefined}
      data-track-row={track.name}
      onFocus={() => useView.setState({ track: track.id })}
      onPointerDown={() => useView.setState({ track: track.id })}
    >
      <Flex gap="1" align="center">
        <TextField
          size="xs"
          flex="1"
          variant="flushed"
          fontWeight="700"
          label={`Name of track ${track.name}`}
          value={track.name}
          maxLength={80}
          onSet={(name) => set({ name })}
        />
        <Toggle
          size="2xs"
          colorPalette="red"
          on={track.muted}
          title={track.muted ? "Not heard, and not in the export" : "Mute this track"}
          onClick={() => set({ muted: !track.muted })}
        >
          {track.muted ? "Muted" : "Mute"}
        </Toggle>
        <Toggle
          size="2xs"
          colorPalette="violet"
          on={track.soloed}
          title={track.soloed ? "Only soloed tracks are heard" : "Hear only this track"}
          onClick={() => set({ soloed: !track.soloed })}
        >
          Solo
        </Toggle>
      </Flex>
      <Flex gap="1" align="center" mt="1.5">
        <NumberField
          size="2xs"
          w="50px"
          px="1"
          label={`Gain of ${track.name}, dB`}
          value={track.gain_db}
          {...GAIN_DB}
          onSet={(gain_db) => set({ gain_db })}
        />
        <Text fontSize="12px" color="quiet">
          dB
        </Text>
        <NativeSelect.Root size="xs" w="76px">
          <NativeSelect.Field
            ps="1.5"
            pe="5"
            aria-label={`Colour of ${track.name}`}
            value={track.colour ?? ""}
            onChange={(event) => set({ colour: event.target.value as Colour })}
          >
            {track.colour === null && <option value="">Usual</option>}
            {COLOURS.map((colour) => (
              <option key={colour} value={colour} style={{ color: swatch(colour, mode) }}>
                {COLOUR_NAMES[colour]}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <NativeSelect.Root size="xs" w="74px">
          <NativeSelect.Field
            ps="1.5"
            pe="5"
            aria-label={`What ${track.name} holds`}
            title="Music is not taken for air, and plays on where air is added"
            value={track.kind}
            onChange={(event) =>
              edit({
                kind: "set_track",
                track: track.id,
                track_kind: event.target.value as Track["kind"],
              })
            }
          >
            <option value="voice">Voice</option>
            <option value="music">Music</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Box flex="1" />
        <IconButton
          size="2xs"
          variant="ghost"
          aria-label={`${track.name}: up`}
          disabled={index === 0}
          onClick={() => swap(-1)}
        >
          <ArrowUp size={14} />
        </IconButton>
        <IconButton
          size="2xs"
          variant="ghost"
          aria-label={`${track.name}: down`}
          disabled={index === episode.tracks.length - 1}
          onClick={() => swap(1)}
        >
          <ArrowDown size={14} />
        </IconButton>
        <IconButton
          size="2xs"
          variant="ghost"
          color="quiet"
          aria-label={`Delete track ${track.name}`}
          title="Delete this track; undo brings it back"
          onClick={() => edit({ kind: "remove_track", track: track.id })}
        >
          <Trash2 size={14} />
        </IconButton>
      </Flex>
    </Box>
  );
}

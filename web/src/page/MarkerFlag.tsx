/** A marked moment on a line: a small flag; opening it tells what, and offers to change it. */
import { Box, Button, HStack, Input, Text } from "@chakra-ui/react";
import type { Edit, Marker } from "../api/client";
import { playAround } from "../playback/player";
import { named, Pick } from "../theme/Pick";
import { clock } from "../time";
import { OnLine } from "./OnLine";
import { useDrag } from "./useDrag";

export const MARKER_NAMES = {
  flag: "Flag",
  gap: "Gap",
  note: "Note",
  todo: "To do",
  part: "Part here",
  chapter: "Chapter",
} as const;
export const MARKER_COLOURS = {
  flag: "trouble",
  gap: "trouble",
  note: "pine.solid",
  todo: "violet.solid",
  part: "ink",
  chapter: "ochre",
} as const;

interface Props {
  marker: Marker;
  x: number;
  height: number;
  scale: number;
  onEdit: (edit: Edit) => void;
}

export function MarkerFlag({ marker, x, height, scale, onEdit }: Props) {
  const name = marker.name || MARKER_NAMES[marker.kind];
  const hollow = marker.kind === "gap" || marker.kind === "todo";
  const colour = MARKER_COLOURS[marker.kind];
  const { moved, props } = useDrag({
    scale,
    onDrop: (by) =>
      onEdit({ kind: "change_marker", marker: marker.id, at: Math.max(0, marker.at + by) }),
  });
  const flag = (
    <Box
      as="button"
      {...props}
      data-marker={marker.kind}
      aria-label={`${MARKER_NAMES[marker.kind]} at ${clock(marker.at)}: ${name}`}
      title={`${name}. Drag to move it.`}
      position="absolute"
      left={`${x - 1 + (moved?.x ?? 0)}px`}
      top="-4px"
      h={`${height + 4}px`}
      w="14px"
      zIndex="2"
      cursor="pointer"
      touchAction="none"
      borderLeftWidth="2px"
      borderLeftStyle={hollow ? "dotted" : "solid"}
      borderColor={colour}
    >
      <Box
        position="absolute"
        top="0"
        left="0"
        w="10px"
        h="10px"
        bg={hollow ? "paper" : colour}
        borderWidth="2px"
        borderLeftWidth="0"
        borderColor={colour}
        borderRightRadius={marker.kind === "note" || marker.kind === "todo" ? "6px" : "3px"}
      />
    </Box>
  );
  return (
    <OnLine trigger={flag} label={MARKER_NAMES[marker.kind]}>
      <Text fontSize="12px" color="quiet" mb="1">
        {MARKER_NAMES[marker.kind]} at {clock(marker.at)}
      </Text>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const said = String(new FormData(event.currentTarget).get("name"));
          onEdit({ kind: "change_marker", marker: marker.id, name: said });
        }}
      >
        <HStack>
          <Input
            name="name"
            size="xs"
            aria-label="Name of the marker"
            defaultValue={marker.name}
            placeholder={MARKER_NAMES[marker.kind]}
            maxLength={120}
          />
          <Pick
            name="What it marks"
            w="90px"
            value={marker.kind}
            options={named(MARKER_NAMES)}
            onPick={(marks) => onEdit({ kind: "change_marker", marker: marker.id, marks })}
          />
        </HStack>
        <HStack mt="2">
          <Button size="xs" type="submit" colorPalette="pine">
            Name it
          </Button>
          <Button size="xs" variant="outline" onClick={() => playAround(marker.at)}>
            Hear around it
          </Button>
          <Button
            size="xs"
            variant="ghost"
            color="quiet"
            onClick={() => onEdit({ kind: "remove_marker", marker: marker.id })}
          >
            Take it away
          </Button>
        </HStack>
      </form>
    </OnLine>
  );
}

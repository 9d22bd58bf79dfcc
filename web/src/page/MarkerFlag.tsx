/** A marked moment on a line: a small flag; opening it tells what, and offers to take it away. */
import { Box, Button, HStack, Text } from "@chakra-ui/react";
import type { Marker } from "../api/client";
import { playAround } from "../playback/player";
import { clock } from "../time";
import { OnLine } from "./OnLine";

const NAMES = { flag: "Flag", gap: "Gap" } as const;

interface Props {
  marker: Marker;
  x: number;
  height: number;
  onRemove: () => void;
}

export function MarkerFlag({ marker, x, height, onRemove }: Props) {
  const name = marker.name || NAMES[marker.kind];
  const gap = marker.kind === "gap";
  const flag = (
    <Box
      as="button"
      data-marker={marker.kind}
      aria-label={`${NAMES[marker.kind]} at ${clock(marker.at)}: ${name}`}
      title={name}
      position="absolute"
      left={`${x - 1}px`}
      top="-4px"
      h={`${height + 4}px`}
      w="14px"
      zIndex="2"
      cursor="pointer"
      borderLeftWidth="2px"
      borderLeftStyle={gap ? "dotted" : "solid"}
      borderColor="trouble"
    >
      <Box
        position="absolute"
        top="0"
        left="0"
        w="10px"
        h="10px"
        bg={gap ? "paper" : "trouble"}
        borderWidth="2px"
        borderLeftWidth="0"
        borderColor="trouble"
        borderRightRadius="3px"
      />
    </Box>
  );
  return (
    <OnLine trigger={flag}>
      <Text fontSize="12px" color="quiet">
        {NAMES[marker.kind]} at {clock(marker.at)}
      </Text>
      <Text>{name}</Text>
      <HStack mt="2">
        <Button size="xs" variant="outline" onClick={() => playAround(marker.at)}>
          Hear around it
        </Button>
        <Button size="xs" variant="ghost" color="quiet" onClick={onRemove}>
          Take it away
        </Button>
      </HStack>
    </OnLine>
  );
}

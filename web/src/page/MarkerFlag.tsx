/** A marked moment on a line: a small flag; opening it tells what, and offers to take it away. */
import { Box, Button, HStack, Popover, Portal, Text } from "@chakra-ui/react";
import type { Marker } from "../api/client";
import { play } from "../playback/player";
import { clock } from "../time";

const AROUND = 96_000;
const NAMES = { flag: "Flag", gap: "Gap" } as const;

interface Props {
  marker: Marker;
  x: number;
  height: number;
  onRemove: () => void;
}

export function MarkerFlag({ marker, x, height, onRemove }: Props) {
  const name = marker.name || NAMES[marker.kind];
  return (
    <Popover.Root lazyMount positioning={{ placement: "top-start" }}>
      <Popover.Trigger asChild>
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
          borderLeftStyle={marker.kind === "gap" ? "dotted" : "solid"}
          borderColor="trouble"
        >
          <Box
            position="absolute"
            top="0"
            left="0"
            w="10px"
            h="10px"
            bg={marker.kind === "gap" ? "paper" : "trouble"}
            borderWidth="2px"
            borderLeftWidth="0"
            borderColor="trouble"
            borderRightRadius="3px"
          />
        </Box>
      </Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content bg="raised" maxW="280px" borderWidth="1px" borderColor="rule">
            <Popover.Body p="3">
              <Text fontSize="12px" color="quiet">
                {NAMES[marker.kind]} at {clock(marker.at)}
              </Text>
              <Text>{name}</Text>
              <HStack mt="2">
                <Button
                  size="xs"
                  variant="outline"
                  onClick={() => play(Math.max(0, marker.at - AROUND), marker.at + AROUND)}
                >
                  Hear around it
                </Button>
                <Button size="xs" variant="ghost" color="quiet" onClick={onRemove}>
                  Take it away
                </Button>
              </HStack>
            </Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

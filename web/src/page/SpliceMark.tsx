/** A stitch on the baseline where something was cut; opening it tells what, and offers it back. */
import { Box, Button, HStack, Text } from "@chakra-ui/react";
import type { Splice } from "../api/client";
import { playAround } from "../playback/player";
import { seconds } from "../time";
import { OnLine } from "./OnLine";

interface Props {
  splice: Splice;
  x: number;
  top: number;
  onRestore: () => void;
}

export function SpliceMark({ splice, x, top, onRestore }: Props) {
  const label = `Cut here: ${seconds(splice.frames)}${splice.text ? `, “${splice.text}”` : ""}`;
  const stitch = (
    <Box
      as="button"
      data-splice={splice.cut}
      aria-label={label}
      title={label}
      position="absolute"
      left={`${x - 9}px`}
      top={`${top - 15}px`}
      w="18px"
      h="20px"
      zIndex="2"
      cursor="pointer"
      color="ink"
      _hover={{ color: "apricot" }}
    >
      <svg width="18" height="20" viewBox="0 0 18 20" aria-hidden="true">
        <title>Splice</title>
        <path
          d="M4 16 L9 6 M9 16 L14 6"
          stroke="currentColor"
          strokeWidth="2"
          strokeLinecap="round"
        />
      </svg>
    </Box>
  );
  return (
    <OnLine trigger={stitch}>
      <Text fontSize="12px" color="quiet">
        {seconds(splice.frames)} cut here
      </Text>
      {splice.text && (
        <Text fontFamily="script" fontSize="16px" textDecoration="line-through" color="trouble">
          {splice.text}
        </Text>
      )}
      <HStack mt="2">
        <Button size="xs" colorPalette="pine" onClick={onRestore}>
          Put it back
        </Button>
        <Button size="xs" variant="outline" onClick={() => playAround(splice.at)}>
          Hear across it
        </Button>
      </HStack>
    </OnLine>
  );
}

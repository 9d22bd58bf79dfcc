/** How loud a microphone is: a bar over the zones of common practice, told in a word as well. */
import { Box, Flex, Text } from "@chakra-ui/react";
import type { Level } from "../../record/recorder";

const FLOOR_DB = -48;
const QUIET_DB = -18;
const HOT_DB = -6;

const db = (value: number) => 20 * Math.log10(Math.max(value, 1e-5));
const place = (dbfs: number) => `${Math.max(0, Math.min(100, (1 - dbfs / FLOOR_DB) * 100))}%`;

function zoneOf({ held, clipped }: Level): { word: string; colour: string } {
  const level = db(held);
  if (clipped) return { word: "Clipped", colour: "trouble" };
  if (level > HOT_DB) return { word: "Hot", colour: "ochre" };
  if (level > QUIET_DB) return { word: "Good", colour: "pine.solid" };
  return { word: level < FLOOR_DB ? "Silence" : "Too quiet", colour: "quiet" };
}

export function LevelMeter({ level, name }: { level: Level; name: string }) {
  const { word, colour } = zoneOf(level);
  const held = db(level.held);
  return (
    <Box
      role="meter"
      aria-label={`Level of ${name}`}
      aria-valuemin={FLOOR_DB}
      aria-valuemax={0}
      aria-valuenow={Math.round(db(level.peak))}
      aria-valuetext={word}
    >
      <Flex align="center" gap="3">
        <Box position="relative" flex="1" h="18px" bg="wash" borderRadius="3px" overflow="hidden">
          <Box position="absolute" inset="0" right="auto" w={place(db(level.peak))} bg={colour} />
          <Box
            position="absolute"
            top="0"
            bottom="0"
            w="3px"
            left={`calc(${place(held)} - 3px)`}
            bg="ink"
          />
          {[QUIET_DB, HOT_DB].map((edge) => (
            <Box
              key={edge}
              position="absolute"
              top="0"
              bottom="0"
              left={place(edge)}
              borderLeftWidth="2px"
              borderStyle="dashed"
              borderColor="quiet"
            />
          ))}
        </Box>
        <Text w="148px" fontWeight="700" whiteSpace="nowrap">
          {word}
          {held > FLOOR_DB && (
            <Text as="span" color="quiet" fontWeight="400">
              {" "}
              · {held.toFixed(0).replace("-", "−")} dBFS
            </Text>
          )}
        </Text>
      </Flex>
      <Box position="relative" h="18px" mr="160px" fontSize="11px" color="quiet" aria-hidden="true">
        <Zone left="0%" right={place(QUIET_DB)} name="too quiet" />
        <Zone left={place(QUIET_DB)} right={place(HOT_DB)} name="good: −18 to −6" />
        <Zone left={place(HOT_DB)} right="100%" name="hot" />
      </Box>
    </Box>
  );
}

function Zone({ left, right, name }: { left: string; right: string; name: string }) {
  return (
    <Text
      position="absolute"
      left={left}
      w={`calc(${right} - ${left})`}
      textAlign="center"
      whiteSpace="nowrap"
    >
      {name}
    </Text>
  );
}

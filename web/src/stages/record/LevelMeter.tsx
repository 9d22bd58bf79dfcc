/**
 * How loud a microphone is: a bar over the zones of common practice, told in a word as well. Levels
 * change many times a second, so they are written into the page, not rendered.
 */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { type Level, levelOf, onCapture } from "../../record/capture";

const FLOOR_DB = -48;
const QUIET_DB = -18;
const HOT_DB = -6;

const db = (value: number) => 20 * Math.log10(Math.max(value, 1e-5));
const share = (dbfs: number) => Math.max(0, Math.min(1, 1 - dbfs / FLOOR_DB));
const place = (dbfs: number) => `${share(dbfs) * 100}%`;

type Zone = "Silence" | "Too quiet" | "Good" | "Hot" | "Clipped";

function zoneOf({ held, clipped }: Level): Zone {
  const level = db(held);
  if (clipped) return "Clipped";
  if (level > HOT_DB) return "Hot";
  if (level > QUIET_DB) return "Good";
  return level < FLOOR_DB ? "Silence" : "Too quiet";
}

const COLOURS = {
  '[data-zone="Clipped"] > &': { bg: "trouble" },
  '[data-zone="Hot"] > &': { bg: "ochre" },
  '[data-zone="Good"] > &': { bg: "pine.solid" },
};

export function LevelMeter({ input, name }: { input: number; name: string }) {
  const meter = useRef<HTMLDivElement>(null);
  const track = useRef<HTMLDivElement>(null);
  const bar = useRef<HTMLDivElement>(null);
  const peak = useRef<HTMLDivElement>(null);
  const word = useRef<HTMLSpanElement>(null);
  const figure = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = () => {
      const level = levelOf(input);
      const held = db(level.held);
      const zone = zoneOf(level);
      if (bar.current) bar.current.style.transform = `scaleX(${share(db(level.peak)).toFixed(3)})`;
      if (peak.current) {
        peak.current.style.transform = `translateX(${(share(held) * 100 - 100).toFixed(1)}%)`;
      }
      write(word.current, zone);
      write(figure.current, held > FLOOR_DB ? ` · ${held.toFixed(0).replace("-", "−")} dBFS` : "");
      put(track.current, "data-zone", zone);
      put(meter.current, "aria-valuetext", zone);
      put(meter.current, "aria-valuenow", String(Math.round(Math.max(FLOOR_DB, held))));
    };
    show();
    return onCapture((data) => data.kind === "levels" && show());
  }, [input]);
  return (
    <Box
      ref={meter}
      role="meter"
      aria-label={`Level of ${name}`}
      aria-valuemin={FLOOR_DB}
      aria-valuemax={0}
      aria-valuenow={FLOOR_DB}
    >
      <Flex align="center" gap="3">
        <Box
          ref={track}
          position="relative"
          flex="1"
          h="18px"
          bg="wash"
          borderRadius="3px"
          overflow="hidden"
          contain="strict"
        >
          <Box
            ref={bar}
            position="absolute"
            inset="0"
            transformOrigin="left"
            transform="scaleX(0)"
            bg="quiet"
            css={COLOURS}
          />
          <Box
            ref={peak}
            position="absolute"
            inset="0"
            transform="translateX(-100%)"
            borderRightWidth="3px"
            borderColor="ink"
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
          <span ref={word} />
          <Box as="span" ref={figure} color="quiet" fontWeight="400" />
        </Text>
      </Flex>
      <Box position="relative" h="18px" mr="160px" fontSize="11px" color="quiet" aria-hidden="true">
        <ZoneName left="0%" right={place(QUIET_DB)} name="too quiet" />
        <ZoneName left={place(QUIET_DB)} right={place(HOT_DB)} name="good: −18 to −6" />
        <ZoneName left={place(HOT_DB)} right="100%" name="hot" />
      </Box>
    </Box>
  );
}

function write(node: HTMLElement | null, text: string) {
  if (node && node.textContent !== text) node.textContent = text;
}

function put(node: HTMLElement | null, name: string, value: string) {
  if (node && node.getAttribute(name) !== value) node.setAttribute(name, value);
}

function ZoneName({ left, right, name }: { left: string; right: string; name: string }) {
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

/** What has been recorded in this visit, growing line by line like the Page. */
import { Box } from "@chakra-ui/react";
import { memo, useEffect, useRef } from "react";
import { RATE } from "../../api/client";
import { prepare } from "../../page/draw";
import type { Column } from "../../record/capture.worklet";
import { columns, useTape } from "../../record/tape";
import { palette } from "../../theme/colours";
import { useMode } from "../../theme/mode";
import { clock } from "../../time";

const LINE_S = 10;
const LINE_FRAMES = LINE_S * RATE;
const STRIP_PX = 40;
/** The audio thread tells levels this often. */
const COLUMN_FRAMES = 2_048;
const FLOOR_DB = -66;

const height = (value: number) =>
  Math.max(0, 1 - (20 * Math.log10(Math.max(value, 1e-6))) / FLOOR_DB) * STRIP_PX;

/** The line that the frame before this one stands on. */
const lineOf = (frames: number) => Math.floor(Math.max(0, frames - 1) / LINE_FRAMES);

export function LiveLines({ tracks }: { tracks: number }) {
  const last = useTape((t) => lineOf(t.frames));
  const first = Math.min(last, lineOf(columns[0]?.frame ?? 0));
  const lines = Array.from({ length: Math.max(1, last - first + 1) }, (_, i) => first + i);
  const end = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (last >= 0) end.current?.scrollIntoView({ block: "end" });
  }, [last]);
  return (
    <Box flex="1" minH="0" overflowY="auto" data-testid="live">
      {lines.slice(-60).map((line) => (
        <Line key={line} line={line} tracks={tracks} />
      ))}
      <div ref={end} />
    </Box>
  );
}

/** Draw one column of a line: the peak as a halo, the body over it. */
function drawColumn(
  context: CanvasRenderingContext2D,
  column: Column,
  start: number,
  width: number,
  inks: { body: string; halo: string }[],
) {
  // On whole pixels, so that no seams show between neighbours.
  const x = (frame: number) => Math.floor(((frame - start) / LINE_FRAMES) * width);
  const left = x(column.frame - COLUMN_FRAMES);
  const wide = x(column.frame) - left;
  for (const [track, peak] of column.peaks.entries()) {
    const ink = inks[track % inks.length];
    if (!ink) continue;
    const base = (track + 1) * STRIP_PX;
    const bar = (value: number, colour: string) => {
      const tall = height(value);
      context.fillStyle = colour;
      context.fillRect(left, base - tall, wide, tall);
    };
    bar(peak, ink.halo);
    bar(column.rms[track] ?? 0, ink.body);
  }
}

const Line = memo(function Line({ line, tracks }: { line: number; tracks: number }) {
  const all = useTape((t) => t.flags);
  const flags = all.filter((at) => lineOf(at + 1) === line);
  const mode = useMode((m) => m.mode);
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const box = canvas.current;
    const width = box?.clientWidth ?? 0;
    const context = box && prepare(box, width, STRIP_PX * tracks);
    if (!context) return;
    const start = line * LINE_FRAMES;
    const { voices, rule } = palette(mode);
    context.fillStyle = rule;
    for (let track = 1; track <= tracks; track++) {
      context.fillRect(0, track * STRIP_PX - 1, width, 1);
    }
    let drawn = 0;
    // Only what has come since the last time is drawn.
    const grow = () => {
      for (; drawn < columns.length; drawn++) {
        const column = columns[drawn];
        if (column && lineOf(column.frame) === line) {
          drawColumn(context, column, start, width, voices);
        }
      }
    };
    grow();
    return useTape.subscribe(({ frames }) => {
      if (lineOf(frames) === line || drawn < columns.length) grow();
    });
  }, [line, tracks, mode]);
  return (
    <Box position="relative" pl="56px" pr="6" py="2">
      <Box
        as="span"
        position="absolute"
        left="0"
        w="46px"
        textAlign="right"
        fontSize="12px"
        color="quiet"
      >
        {clock(line * LINE_FRAMES, 0)}
      </Box>
      <Box position="relative">
        <canvas
          ref={canvas}
          style={{ width: "100%", height: STRIP_PX * tracks, display: "block" }}
        />
        {flags.map((at) => (
          <Box
            key={at}
            position="absolute"
            top="-4px"
            bottom="0"
            left={`${((at - line * LINE_FRAMES) / LINE_FRAMES) * 100}%`}
            borderLeftWidth="2px"
            borderColor="trouble"
            title={`Flag at ${clock(at)}`}
          >
            <Box w="9px" h="9px" bg="trouble" borderRightRadius="3px" />
          </Box>
        ))}
      </Box>
    </Box>
  );
});

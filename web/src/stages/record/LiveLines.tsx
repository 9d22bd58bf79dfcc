/** What has been recorded in this visit, growing line by line like the Page. */
import { Box } from "@chakra-ui/react";
import { memo, useEffect, useRef } from "react";
import { RATE } from "../../api/client";
import { drawSkyline, prepare } from "../../page/draw";
import { columns, useRecorder } from "../../record/recorder";
import { palette } from "../../theme/colours";
import { useMode } from "../../theme/mode";
import { clock } from "../../time";

const LINE_S = 10;
const STRIP_PX = 40;
/** The audio thread tells levels this often. */
const COLUMN_FRAMES = 2_048;
const PER_LINE = Math.ceil((LINE_S * RATE) / COLUMN_FRAMES);
const FLOOR_DB = -66;

const byte = (value: number) =>
  Math.max(0, Math.min(255, (1 - (20 * Math.log10(Math.max(value, 1e-6))) / FLOOR_DB) * 255));

/** The line that the frame before this one stands on. */
const lineOf = (frames: number) => Math.floor(Math.max(0, frames - 1) / (LINE_S * RATE));

function* columnsFrom(start: number) {
  for (let i = columns.length - 1; i >= 0; i--) {
    const column = columns[i];
    if (!column || column.frame <= start) return;
    yield column;
  }
}

export function LiveLines({ tracks }: { tracks: number }) {
  const last = useRecorder((r) => lineOf(r.frames));
  const first = Math.min(last, lineOf(columns[0]?.frame ?? 0));
  const lines = Array.from({ length: Math.max(1, last - first + 1) }, (_, i) => first + i);
  const end = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (last >= 0) end.current?.scrollIntoView({ block: "end" });
  }, [last]);
  return (
    <Box flex="1" minH="0" overflowY="auto" data-testid="live">
      {lines.slice(-60).map((line) => (
        <Line key={line} line={line} tracks={tracks} growing={line === last} />
      ))}
      <div ref={end} />
    </Box>
  );
}

interface LineProps {
  line: number;
  tracks: number;
  growing: boolean;
}

const Line = memo(function Line({ line, tracks, growing }: LineProps) {
  const frames = useRecorder((r) => (growing ? r.frames : 0));
  const flags = useRecorder((r) => r.flags).filter((at) => lineOf(at + 1) === line);
  const mode = useMode((m) => m.mode);
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const box = canvas.current;
    const width = box?.clientWidth ?? 0;
    const context = box && frames >= 0 ? prepare(box, width, STRIP_PX * tracks) : null;
    if (!context) return;
    const start = line * LINE_S * RATE;
    const inks = palette(mode).voices;
    for (let track = 0; track < tracks; track++) {
      const peaks = new Uint8Array(PER_LINE);
      const body = new Uint8Array(PER_LINE);
      // Newest first, so that the line that grows looks at its own columns only.
      for (const column of columnsFrom(start)) {
        const at = Math.floor((column.frame - 1 - start) / COLUMN_FRAMES);
        if (at >= PER_LINE) continue;
        peaks[at] = byte(column.peaks[track] ?? 0);
        body[at] = byte(column.rms[track] ?? 0);
      }
      const ink = inks[track % inks.length];
      if (ink) drawSkyline(context, peaks, body, width, STRIP_PX, ink);
      context.translate(0, STRIP_PX);
    }
  }, [line, tracks, mode, frames]);
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
        {clock(line * LINE_S * RATE, 0)}
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
            left={`${((at / RATE - line * LINE_S) / LINE_S) * 100}%`}
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

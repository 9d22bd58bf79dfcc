/** One line of the Page: some seconds of every track that sounds there, and the words under it. */
import { Box } from "@chakra-ui/react";
import { memo, useEffect, useRef } from "react";
import type { Episode, Marker, PageData, Splice } from "../api/client";
import { position, usePlayer } from "../playback/player";
import { inkOf, palette } from "../theme/colours";
import { useMode } from "../theme/mode";
import { clock, seconds } from "../time";
import type { Skyline } from "./data";
import { drawSkyline, prepare } from "./draw";
import { type Item, layOut, ROW_PX } from "./layout";
import { MarkerFlag } from "./MarkerFlag";
import { SpliceMark } from "./SpliceMark";
import { holds, useView } from "./view";

export const GUTTER_PX = 56;
const STRIP_PX = 46;

interface Props {
  episode: Episode;
  start: number;
  frames: number;
  width: number;
  page: PageData | undefined;
  skyline: Skyline | undefined;
  /** First column of the skyline that belongs to this line, and how many. */
  column: number;
  columns: number;
  onRestore: (cut: Splice) => void;
  onUnmark: (marker: Marker) => void;
}

export const PageLine = memo(function PageLine(props: Props) {
  const { episode, start, frames, width, page } = props;
  const end = start + frames;
  const sounding = page
    ? episode.tracks.filter((track) =>
        page.clips.some((c) => c.track === track.id && c.start < end && c.start + c.frames > start),
      )
    : episode.tracks.slice(0, 1);
  const splices = page?.splices.filter((s) => s.at >= start && s.at < end) ?? [];
  const sections = episode.sections.filter((s) => s.at >= start && s.at < end);
  const markers = episode.markers.filter((m) => m.at >= start && m.at < end);

  return (
    <Box position="relative" pl={`${GUTTER_PX}px`} pb="14px" pt={sections.length ? "20px" : "2px"}>
      <Box position="absolute" left="0" top={sections.length ? "20px" : "0"} w="46px">
        <Box as="span" fontSize="12px" color="quiet" display="block" textAlign="right">
          {clock(start, 0)}
        </Box>
      </Box>
      <Box position="relative" w={`${width}px`} data-line={start} data-frames={frames}>
        {sections.map((section, i) => (
          <SectionName
            key={section.id}
            name={section.name}
            left={((section.at - start) / frames) * width}
            right={(((sections[i + 1]?.at ?? end) - start) / frames) * width}
          />
        ))}
        {markers.map((marker) => (
          <MarkerFlag
            key={marker.id}
            marker={marker}
            x={((marker.at - start) / frames) * width}
            height={STRIP_PX}
            onRemove={() => props.onUnmark(marker)}
          />
        ))}
        {sounding.length ? (
          sounding.map((track) => (
            <Strip
              key={track.id}
              {...props}
              track={track.id}
              sections={sections}
              splices={splices.filter((s) => sounds(page, track.id, s.at) || sounding[0] === track)}
            />
          ))
        ) : (
          <Box position="relative" h={`${STRIP_PX}px`} borderBottomWidth="1px" borderColor="rule">
            <Playhead start={start} frames={frames} width={width} />
          </Box>
        )}
      </Box>
    </Box>
  );
});

/** Whether a track has sound on either side of a splice. */
const sounds = (page: PageData | undefined, track: string, at: number) =>
  page?.clips.some((c) => c.track === track && c.start < at && c.start + c.frames > at) ?? false;

/** The name of a section over its beginning, cut short where the next one begins. */
function SectionName({ name, left, right }: { name: string; left: number; right: number }) {
  return (
    <Box
      as="span"
      position="absolute"
      top="-18px"
      left={`${left}px`}
      maxW={`${Math.max(24, right - left - 2)}px`}
      bg="ink"
      color="paper"
      fontSize="11px"
      px="6px"
      lineHeight="16px"
      borderRightRadius="3px"
      truncate
      title={name}
    >
      {name}
    </Box>
  );
}

function Highlight({
  start,
  frames,
  width,
  full,
}: {
  start: number;
  frames: number;
  width: number;
  full: number;
}) {
  const selection = useView((v) => v.selection);
  if (!selection || selection.start >= start + frames || selection.end <= start) return null;
  const left = Math.max(0, ((selection.start - start) / frames) * full);
  const right = Math.min(width, ((selection.end - start) / frames) * full);
  if (right <= left) return null;
  return (
    <Box
      data-testid="selection"
      position="absolute"
      top="0"
      h={`${STRIP_PX}px`}
      left={`${left}px`}
      w={`${Math.max(1, right - left)}px`}
      bg="mark"
      borderXWidth="1px"
      borderColor="apricot"
      borderRadius="2px"
      pointerEvents="none"
    />
  );
}

interface StripProps extends Props {
  track: string;
  sections: Episode["sections"];
  splices: Splice[];
}

function Strip({ track, sections, splices, ...line }: StripProps) {
  const { episode, start, frames, width, page, skyline, column, columns } = line;
  const lineWidth = (width * Math.min(frames, episode.frames - start)) / frames;
  const mode = useMode((m) => m.mode);
  const canvas = useRef<HTMLCanvasElement>(null);
  const row = episode.tracks.findIndex((t) => t.id === track);
  const ink = inkOf(episode.tracks, track, mode);

  useEffect(() => {
    const peaks = skyline?.peaks[row];
    const body = skyline?.body[row];
    if (!canvas.current || !peaks || !body) return;
    const context = prepare(canvas.current, width, STRIP_PX);
    if (!context) return;
    const part = (bytes: Uint8Array) => bytes.subarray(column, column + columns);
    drawSkyline(context, part(peaks), part(body), width, STRIP_PX, ink);
  }, [skyline, row, width, column, columns, ink]);

  const items: Item[] = [];
  for (const word of page?.words ?? []) {
    if (word.track === track && word.start >= start && word.start < start + frames) {
      const key = `${word.take}:${word.word}:${word.start}`;
      items.push({ key, text: word.text, start: word.start, end: word.end, word });
    }
  }
  for (const air of page?.air ?? []) {
    if (air.track === track && air.start >= start && air.start < start + frames) {
      const key = `air${air.start}`;
      const stop = air.start + air.frames;
      items.push({ key, text: seconds(air.frames), start: air.start, end: stop, word: null });
    }
  }
  items.sort((a, b) => a.start - b.start);
  const { placed, rows } = layOut(items, start, frames, width);

  return (
    <Box position="relative">
      <Highlight start={start} frames={frames} width={lineWidth} full={width} />
      <canvas
        ref={canvas}
        style={{ width, height: STRIP_PX, display: "block", position: "relative", cursor: "text" }}
      />
      {sections.map((section) => (
        <Box
          key={section.id}
          position="absolute"
          top="-2px"
          h={`${STRIP_PX + 2}px`}
          left={`${((section.at - start) / frames) * width}px`}
          w="2px"
          bg="ink"
          pointerEvents="none"
        />
      ))}
      <Playhead start={start} frames={frames} width={width} />
      {splices.map((splice) => (
        <SpliceMark
          key={splice.cut}
          splice={splice}
          x={((splice.at - start) / frames) * width}
          top={STRIP_PX}
          onRestore={() => line.onRestore(splice)}
        />
      ))}
      <Box position="relative" h={`${Math.max(rows, 0) * ROW_PX + 2}px`}>
        {placed.map(({ item, x, row: at }) => (
          <WordOrAir key={item.key} item={item} x={x} row={at} colour={ink.text} />
        ))}
      </Box>
    </Box>
  );
}

function WordOrAir({
  item,
  x,
  row,
  colour,
}: {
  item: Item;
  x: number;
  row: number;
  colour: string;
}) {
  const marked = useView((v) => holds(v.selection, item));
  const { word } = item;
  if (!word) {
    return (
      <Box
        as="span"
        data-air=""
        data-start={item.start}
        data-end={item.end}
        position="absolute"
        left={`${x}px`}
        top={`${row * ROW_PX + 4}px`}
        px="6px"
        fontSize="12px"
        lineHeight="18px"
        borderRadius="9px"
        cursor="pointer"
        bg={marked ? "mark" : "wash"}
        color={marked ? "ink" : "quiet"}
        title={`Nobody speaks for ${item.text}. Click to select it.`}
      >
        {item.text}
      </Box>
    );
  }
  const unsure = word.confidence < 0.4 && !word.corrected;
  return (
    <Box
      as="span"
      data-word={`${word.take}:${word.word}`}
      data-start={item.start}
      data-end={item.end}
      data-marked={marked || undefined}
      position="absolute"
      left={`${x}px`}
      top={`${row * ROW_PX}px`}
      fontFamily="script"
      fontSize="17px"
      lineHeight={`${ROW_PX - 2}px`}
      whiteSpace="nowrap"
      cursor="text"
      borderRadius="2px"
      color={word.kind === "filler" ? "trouble" : colour}
      bg={marked ? "mark" : undefined}
      textDecoration={
        word.kind === "filler" ? "underline wavy" : unsure ? "underline dotted" : undefined
      }
      textDecorationThickness="1px"
      textUnderlineOffset="4px"
      title={unsure ? "Not sure of this word" : undefined}
    >
      {item.text}
    </Box>
  );
}

function Playhead({ start, frames, width }: { start: number; frames: number; width: number }) {
  const { playing, at } = usePlayer();
  const bar = useRef<HTMLDivElement>(null);
  const mode = useMode((m) => m.mode);
  useEffect(() => {
    let request = 0;
    const move = () => {
      const now = position();
      const here = now >= start && now < start + frames;
      if (bar.current) {
        bar.current.style.display = here ? "block" : "none";
        bar.current.style.transform = `translateX(${((now - start) / frames) * width}px)`;
      }
      if (playing) request = requestAnimationFrame(move);
    };
    move();
    return () => cancelAnimationFrame(request);
  });
  return (
    <div
      ref={bar}
      data-playhead={at}
      style={{
        position: "absolute",
        top: -2,
        height: STRIP_PX + 4,
        left: -1,
        width: 2,
        background: palette(mode).apricot,
        pointerEvents: "none",
        zIndex: 2,
        display: "none",
      }}
    />
  );
}

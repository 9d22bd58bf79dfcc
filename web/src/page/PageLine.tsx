/** One line of the Page: some seconds of every track that sounds there, and the words under it. */
import { Box, Button, HStack, Input, Text } from "@chakra-ui/react";
import { memo, useEffect, useMemo, useRef } from "react";
import { useShallow } from "zustand/react/shallow";
import { type Edit, type Episode, type PageData, RATE, type Splice } from "../api/client";
import type { Skyline } from "../api/stretch";
import { GUTTER_PX } from "../measures";
import { position, usePlayer } from "../playback/player";
import { inkOf, palette } from "../theme/colours";
import { useMode } from "../theme/mode";
import { clock, seconds } from "../time";
import { ClipHandles } from "./ClipHandles";
import type { Wave } from "./data";
import { skylinePath, wavePath } from "./draw";
import { GainLine } from "./GainLine";
import { type Item, layOut, type Placed, ROW_PX, textWidth } from "./layout";
import { MarkerFlag } from "./MarkerFlag";
import { OnLine } from "./OnLine";
import { SpliceMark } from "./SpliceMark";
import { useDrag } from "./useDrag";
import { holds, type Span, useView } from "./view";
import "./page.css";

const STRIP_PX = 46;

export interface LandingMark {
  at: number;
  /** Frames that it goes over. */
  frames: number;
  says: string;
}

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
  wave: Wave | undefined;
  /** Where a recording will go. */
  landing?: LandingMark;
  onEdit: (edit: Edit) => void;
}

const NOTHING: Splice[] = [];

export const PageLine = memo(function PageLine(props: Props) {
  const { episode, start, frames, width, page } = props;
  const end = start + frames;
  const sounding = page
    ? episode.tracks.filter((track) =>
        page.clips.some((c) => c.track === track.id && c.start < end && c.start + c.frames > start),
      )
    : episode.tracks.slice(0, 1);
  // The very end belongs to the last line: what was cut there stands on it.
  const reached = end >= episode.frames ? end + 1 : end;
  const splices = page?.splices.filter((s) => s.at >= start && s.at < reached) ?? NOTHING;
  const splicesOn = (track: string, first: boolean) =>
    splices.length ? splices.filter((s) => first || sounds(page, track, s.at)) : NOTHING;
  const sections = episode.sections.filter((s) => s.at >= start && s.at < end);
  const markers = episode.markers.filter((m) => m.at >= start && m.at < end);

  return (
    <div className="at-line" data-headed={sections.length ? "" : undefined}>
      <span className="at-clock">{clock(start, 0)}</span>
      <div
        style={{ position: "relative", width }}
        data-line={start}
        data-frames={frames}
        data-ready={page && (props.skyline || props.wave) ? "" : undefined}
      >
        {sections.map((section, i) => (
          <SectionName
            key={section.id}
            section={section}
            episode={episode}
            scale={frames / width}
            onEdit={props.onEdit}
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
            scale={frames / width}
            onEdit={props.onEdit}
          />
        ))}
        {props.landing && (
          <Landing mark={props.landing} total={episode.frames} {...{ start, frames, width }} />
        )}
        {sounding.length ? (
          sounding.map((track) => (
            <Strip
              key={track.id}
              {...props}
              track={track.id}
              sections={sections}
              splices={splicesOn(track.id, sounding[0] === track)}
              first={sounding[0] === track}
            />
          ))
        ) : (
          <div
            style={{
              position: "relative",
              height: STRIP_PX,
              borderBottom: "1px solid var(--chakra-colors-rule)",
            }}
          >
            <Playhead start={start} frames={frames} width={width} />
          </div>
        )}
      </div>
    </div>
  );
});

interface LandingProps {
  mark: LandingMark;
  total: number;
  start: number;
  frames: number;
  width: number;
}

/** Where a recording will go: a bar, or the span that it goes over, and a word for it. */
function Landing({ mark, total, start, frames, width }: LandingProps) {
  const end = start + frames;
  const atEnd = mark.at === total && mark.at === end;
  if (mark.at + mark.frames < start || (mark.at >= end && !atEnd)) return null;
  if (mark.at < start && mark.at + mark.frames === start) return null;
  const left = Math.max(0, ((mark.at - start) / frames) * width);
  const right = Math.min(width, ((mark.at + mark.frames - start) / frames) * width);
  const beginsHere = mark.at >= start;
  const late = left > width * 0.6;
  return (
    <Box
      data-testid="landing-mark"
      position="absolute"
      top="-4px"
      bottom="0"
      zIndex="2"
      left={`${left}px`}
      w={`${Math.max(0, right - left)}px`}
      borderLeftWidth={beginsHere ? "3px" : "0"}
      borderRightWidth={mark.frames ? "3px" : "0"}
      borderStyle="dashed"
      borderColor="trouble"
      pointerEvents="none"
    >
      {beginsHere && (
        <Box
          position="absolute"
          top="-2px"
          {...(late ? { right: mark.frames ? "100%" : "6px" } : { left: "3px" })}
          px="2"
          bg="trouble"
          color="pine.contrast"
          fontSize="12px"
          lineHeight="18px"
          borderRadius="3px"
          whiteSpace="nowrap"
        >
          {mark.says}
        </Box>
      )}
    </Box>
  );
}

/** Whether a track has sound at a splice. */
const sounds = (page: PageData | undefined, track: string, at: number) =>
  page?.clips.some((c) => c.track === track && c.start <= at && c.start + c.frames >= at) ?? false;

interface SectionNameProps {
  section: Episode["sections"][number];
  episode: Episode;
  scale: number;
  left: number;
  right: number;
  onEdit: (edit: Edit) => void;
}

/** The name of a section over its beginning, cut short where the next one begins; dragging it moves
 * the boundary. */
function SectionName({ section, episode, scale, left, right, onEdit }: SectionNameProps) {
  const { moved, props } = useDrag({
    scale,
    onDrop: (by) => {
      const at = Math.max(1, Math.min(episode.frames - 1, section.at + by));
      onEdit({
        kind: "set_sections",
        sections: episode.sections.map((s) => ({
          id: s.id,
          at: s.id === section.id ? at : s.at,
          name: s.name,
        })),
      });
    },
  });
  const held = section.at > 0;
  return (
    <Box
      as="span"
      {...(held ? props : {})}
      className={held ? "at-handle" : undefined}
      data-section={section.id}
      position="absolute"
      top="-18px"
      left={`${left + (moved?.x ?? 0)}px`}
      maxW={`${Math.max(24, right - left - 2)}px`}
      bg="ink"
      color="paper"
      fontSize="11px"
      px="6px"
      lineHeight="16px"
      borderRightRadius="3px"
      truncate
      cursor={held ? "ew-resize" : undefined}
      title={held ? `${section.name}. Drag to move where it begins.` : section.name}
    >
      {section.name}
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
  const selection = useView(({ selection: s }) =>
    s && s.start < start + frames && s.end > start ? s : null,
  );
  if (!selection) return null;
  const left = Math.max(0, ((selection.start - start) / frames) * full);
  const right = Math.min(width, ((selection.end - start) / frames) * full);
  if (right <= left) return null;
  return (
    <div
      className="at-selection"
      data-testid="selection"
      style={{ height: STRIP_PX, left, width: Math.max(1, right - left) }}
    >
      {selection.start >= start && (
        <span className="at-knob" data-knob="start" style={{ left: 0, pointerEvents: "auto" }} />
      )}
      {selection.end <= start + frames && (
        <span className="at-knob" data-knob="end" style={{ left: "100%", pointerEvents: "auto" }} />
      )}
    </div>
  );
}

interface StripProps extends Props {
  track: string;
  /** It is the topmost of its line. */
  first: boolean;
  sections: Episode["sections"];
  splices: Splice[];
}

function Strip({ track, sections, splices, ...line }: StripProps) {
  const { episode, start, frames, width, page, skyline, column, columns } = line;
  const lineWidth = (width * Math.min(frames, episode.frames - start)) / frames;
  const mode = useMode((m) => m.mode);
  const row = episode.tracks.findIndex((t) => t.id === track);
  const ink = inkOf(episode.tracks, track, mode);

  const { wave, onEdit } = line;
  const paths = useMemo(() => {
    const part = <T extends Uint8Array | Int8Array>(bytes: T) =>
      bytes.subarray(column, column + columns) as T;
    const low = wave?.low[row];
    const high = wave?.high[row];
    if (low && high) return { halo: "", body: wavePath(part(low), part(high), STRIP_PX) };
    const peaks = skyline?.peaks[row];
    const body = skyline?.body[row];
    if (!peaks || !body) return null;
    return {
      halo: skylinePath(part(peaks), STRIP_PX - 1),
      body: skylinePath(part(body), STRIP_PX - 1),
    };
  }, [skyline, wave, row, column, columns]);

  const showCuts = useView((v) => v.showCuts);
  const showGain = useView((v) => v.showGain);
  const { said, others, rows } = useMemo(() => {
    const items: Item[] = [];
    // Named after the word alone, so that one that a cut before it moved is only moved.
    const named = new Map<string, number>();
    const within = (at: number) => at >= start && at < start + frames;
    for (const word of page?.words ?? []) {
      if (word.track === track && within(word.start)) {
        const name = `${word.take}:${word.word}`;
        const again = named.get(name) ?? 0;
        named.set(name, again + 1);
        const key = `${name}:${again}`;
        items.push({ kind: "word", key, text: word.text, start: word.start, end: word.end, word });
      }
    }
    for (const air of page?.air ?? []) {
      if (air.track === track && within(air.start)) {
        const stop = air.start + air.frames;
        const text = seconds(air.frames);
        items.push({ kind: "air", key: `air${air.start}`, text, start: air.start, end: stop });
      }
    }
    for (const splice of showCuts ? splices : []) {
      const text = splice.text || `⟨${seconds(splice.frames)} cut⟩`;
      const { at, cut } = splice;
      items.push({ kind: "cut", key: `cut${cut}`, text, start: at, end: at, cut });
    }
    items.sort((a, b) => a.start - b.start);
    const { placed, rows } = layOut(items, start, frames, width);
    return { said: placed.filter(isSaid), others: placed.filter(isOther), rows };
  }, [page, track, start, frames, width, showCuts, splices]);

  const own = page?.clips.filter(
    (c) => c.track === track && c.start < start + frames && c.start + c.frames > start,
  );
  const about = episode.tracks[row];
  return (
    <div
      className="at-strip"
      data-track={track}
      style={{ position: "relative", opacity: about && silent(episode, about) ? 0.45 : 1 }}
    >
      {about && episode.tracks.length > 1 && (
        <span className="at-name" style={{ left: -GUTTER_PX, color: ink.text }}>
          {about.name}
        </span>
      )}
      {own?.map(
        (clip) =>
          clip.tone && (
            <ToneFill key={clip.start} clip={clip} start={start} frames={frames} width={width} />
          ),
      )}
      <Highlight start={start} frames={frames} width={lineWidth} full={width} />
      <svg
        className="at-canvas"
        aria-hidden="true"
        width={width}
        height={STRIP_PX}
        viewBox={`0 0 ${columns} ${STRIP_PX}`}
        preserveAspectRatio="none"
        shapeRendering="crispEdges"
      >
        {paths && (
          <>
            <path d={paths.halo} fill={ink.halo} />
            <path d={paths.body} fill={ink.body} />
            <rect
              y={wave ? STRIP_PX / 2 - 0.5 : STRIP_PX - 1}
              width={columns}
              height="1"
              fill={ink.body}
              fillOpacity="0.55"
            />
          </>
        )}
      </svg>
      {sections.map((section) => (
        <div
          key={section.id}
          style={{
            position: "absolute",
            top: -2,
            height: STRIP_PX + 2,
            left: ((section.at - start) / frames) * width,
            width: 2,
            background: "var(--chakra-colors-ink)",
            pointerEvents: "none",
          }}
        />
      ))}
      <Playhead start={start} frames={frames} width={width} />
      {page?.room_tones
        .filter((t) => t.track === track && t.start < start + frames && t.start + t.frames > start)
        .map((tone) => (
          <RoomTone key={tone.start} tone={tone} start={start} frames={frames} width={width} />
        ))}
      {page &&
        own
          ?.filter((c) => !c.goes_on && !splices.some((s) => s.at === c.start))
          .map((clip) => (
            <ClipHandles
              key={clip.start}
              {...{ clip, episode, page, start, frames, width, onEdit }}
              height={STRIP_PX}
            />
          ))}
      {about && (showGain || about.envelope.length > 0) && (
        <GainLine track={about} {...{ start, frames, width, onEdit }} height={STRIP_PX} />
      )}
      {splices.map((splice) => (
        <SpliceMark
          key={splice.cut}
          splice={splice}
          total={episode.frames}
          main={line.first}
          scale={frames / width}
          x={((splice.at - start) / frames) * width}
          top={STRIP_PX}
          onEdit={onEdit}
        />
      ))}
      <div style={{ position: "relative", height: rows * ROW_PX + 2, color: ink.text }}>
        <Words words={said} track={track} />
        {others.map(({ item, x, row: at }) =>
          item.kind === "air" ? (
            <AirHere key={item.key} item={item} x={x} row={at} onEdit={onEdit} />
          ) : (
            <button
              key={item.key}
              type="button"
              className="at-cut"
              data-cut-words={item.cut}
              style={{ left: x, top: at * ROW_PX }}
              title="Cut. Click to open the splice."
              onClick={() => useView.setState({ splice: item.cut })}
            >
              {item.text}
            </button>
          ),
        )}
      </div>
    </div>
  );
}

/** Whether a track is not heard now. */
function silent(episode: Episode, track: Episode["tracks"][number]) {
  return track.muted || (!track.soloed && episode.tracks.some((t) => t.soloed));
}

interface LineSpan {
  start: number;
  frames: number;
  width: number;
}

/** Where a span lies on a line, in pixels, held within it; never too narrow to be seen. */
function within(span: { start: number; frames: number }, { start, frames, width }: LineSpan) {
  const left = Math.max(0, ((span.start - start) / frames) * width);
  const right = Math.min(width, ((span.start + span.frames - start) / frames) * width);
  return { left, width: Math.max(2, right - left) };
}

/** Room tone that was put in: a hatched ground under its sound. */
function ToneFill({ clip, ...line }: LineSpan & { clip: PageData["clips"][number] }) {
  return (
    <div
      data-tone={clip.start}
      title={`Room tone, ${seconds(clip.frames)}`}
      style={{
        position: "absolute",
        ...within(clip, line),
        top: 0,
        height: STRIP_PX,
        background:
          "repeating-linear-gradient(135deg, var(--chakra-colors-wash) 0 4px, transparent 4px 8px)",
      }}
    />
  );
}

/** The stretch that a recording's room tone is taken from: a dotted line on the baseline. */
function RoomTone({ tone, ...line }: LineSpan & { tone: PageData["room_tones"][number] }) {
  return (
    <div
      data-testid="room-tone-mark"
      title={`Room tone of this recording: ${seconds(tone.frames)}`}
      style={{
        position: "absolute",
        top: STRIP_PX - 3,
        ...within(tone, line),
        borderTop: "3px dotted var(--chakra-colors-ochre)",
      }}
    />
  );
}

type Said = Placed & { item: Extract<Item, { kind: "word" }> };
type Other = Placed & { item: Exclude<Item, { kind: "word" }> };
const isSaid = (one: Placed): one is Said => one.item.kind === "word";
const isOther = (one: Placed): one is Other => !isSaid(one);

interface WordsProps {
  words: Said[];
  track: string;
}

/** The words of a strip, all at once: a line holds dozens, and each edit draws hundreds anew. */
const Words = memo(function Words({ words, track }: WordsProps) {
  const low = words[0]?.item.start ?? 0;
  const high = words.at(-1)?.item.end ?? 0;
  const here = (span: Span) => span.start < high && span.end > low;
  const selection = useView((v) => (v.selection && here(v.selection) ? v.selection : null));
  const hits = useView(
    useShallow((v) =>
      v.hits.filter((h) => h.track === track && here({ start: h.start, end: h.start + h.frames })),
    ),
  );
  const rows: Said[][] = [];
  for (const one of words) {
    rows[one.row] ??= [];
    rows[one.row]?.push(one);
  }
  return rows.map((row, at) => {
    let reached = 0;
    return (
      // biome-ignore lint/suspicious/noArrayIndexKey: what is here is drawn over
      <div key={at} className="at-row" style={{ top: at * ROW_PX }}>
        {row.map(({ item, x }, i) => {
          const { word } = item;
          const before = x - reached;
          reached = x + textWidth(item.text);
          const hit = hits.some((h) => item.start >= h.start && item.end <= h.start + h.frames);
          const unsure = word.confidence < 0.4 && !word.corrected;
          return (
            <span
              // biome-ignore lint/suspicious/noArrayIndexKey: it is drawn over when another stands there
              key={i}
              className="at-word"
              data-word={`${word.take}:${word.word}`}
              data-start={item.start}
              data-end={item.end}
              data-marked={holds(selection, item) ? "" : undefined}
              data-hit={hit ? "" : undefined}
              data-filler={word.kind === "filler" ? "" : undefined}
              data-unsure={unsure ? "" : undefined}
              style={{ marginLeft: before }}
              title={unsure ? "Not sure of this word" : undefined}
            >
              {item.text}
            </span>
          );
        })}
      </div>
    );
  });
});

/** Lengths that air is often set to. */
const AIR_LENGTHS = [0.4, 0.6, 0.8] as const;

interface AirProps {
  item: Extract<Item, { kind: "air" }>;
  x: number;
  row: number;
  onEdit: (edit: Edit) => void;
}

function AirHere({ item, x, row, onEdit }: AirProps) {
  const marked = useView((v) => holds(v.selection, item));
  const set = (length: number) => {
    useView.getState().select(null);
    onEdit({
      kind: "set_air",
      start: item.start,
      frames: item.end - item.start,
      to_frames: Math.round(length * RATE),
      crossfade_frames: 480,
    });
  };
  const chip = (
    <button
      type="button"
      className="at-air"
      data-air=""
      data-start={item.start}
      data-end={item.end}
      data-marked={marked ? "" : undefined}
      style={{ left: x, top: row * ROW_PX }}
      title={`Nobody speaks for ${item.text}. Click to set how long it is.`}
      onClick={() => useView.getState().select({ start: item.start, end: item.end })}
    >
      {item.text}
    </button>
  );
  return (
    <OnLine trigger={chip}>
      <Text fontSize="12px" color="quiet" mb="1">
        Nobody speaks for {item.text}. Make it
      </Text>
      <HStack gap="1">
        {AIR_LENGTHS.map((length) => (
          <Button key={length} size="xs" variant="outline" onClick={() => set(length)}>
            {length} s
          </Button>
        ))}
        <form
          onSubmit={(event) => {
            event.preventDefault();
            const typed = String(new FormData(event.currentTarget).get("length"));
            const length = Number(typed.replace(",", "."));
            if (length > 0) set(length);
          }}
        >
          <HStack gap="1">
            <Input
              name="length"
              size="xs"
              w="56px"
              aria-label="Length of the air in seconds"
              placeholder="s"
            />
            <Button size="xs" type="submit" colorPalette="pine">
              Set
            </Button>
          </HStack>
        </form>
      </HStack>
    </OnLine>
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

/** One line of the Page: some seconds of every track that sounds there, and the words under it. */
import { Box } from "@chakra-ui/react";
import { memo, useEffect, useMemo, useRef } from "react";
import type { Clip, Edit, Episode, PageData, Splice } from "../api/client";
import type { Skyline } from "../api/stretch";
import { GUTTER_PX } from "../measures";
import { position, usePlayer } from "../playback/player";
import { inkOf, palette } from "../theme/colours";
import { useMode } from "../theme/mode";
import { clock, seconds } from "../time";
import type { Wave } from "../view/data";
import { useView } from "../view/view";
import { ClipHandles } from "./ClipHandles";
import { skylinePath, wavePath } from "./draw";
import { GainLine } from "./GainLine";
import { StripWords, Turns } from "./LineWords";
import { flowing } from "./layout";
import { MarkerFlag } from "./MarkerFlag";
import { SpliceMark } from "./SpliceMark";
import { useDrag } from "./useDrag";
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
        {page && flowing(frames) && (
          <Turns {...{ episode, page, start, frames, splices }} onEdit={props.onEdit} />
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

  const showGain = useView((v) => v.showGain);
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
      {flowing(frames) ? (
        <div style={{ height: 2 }} />
      ) : (
        <StripWords {...{ episode, page, track, start, frames, width, splices, onEdit }} />
      )}
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
function ToneFill({ clip, ...line }: LineSpan & { clip: Clip }) {
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

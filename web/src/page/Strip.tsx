/** A track on a line: its sound, and what lies on it. */
import { useMemo } from "react";
import type { Clip, Edit, Episode, PageData, Splice } from "../api/client";
import type { Skyline } from "../api/stretch";
import { GUTTER_PX } from "../measures";
import { inkOf } from "../theme/colours";
import { useMode } from "../theme/mode";
import { seconds } from "../time";
import type { Wave } from "../view/data";
import { useView } from "../view/view";
import { ClipHandles } from "./ClipHandles";
import { skylinePath, wavePath } from "./draw";
import { GainLine } from "./GainLine";
import type { LandingMark } from "./Landing";
import { StripWords } from "./LineWords";
import { flowing } from "./layout";
import { Playhead } from "./Playhead";
import { SoundHandles } from "./SoundHandles";
import { SpliceMark } from "./SpliceMark";
import { type LineSpan, STRIP_PX, within } from "./span";

export interface LineProps {
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

interface Props extends LineProps {
  track: string;
  /** It is the topmost of its line. */
  first: boolean;
  sections: Episode["sections"];
  splices: Splice[];
}

export function Strip({ track, sections, splices, ...line }: Props) {
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
        !about?.held &&
        own
          ?.filter((c) => !c.goes_on && !splices.some((s) => s.at === c.start))
          .map((clip) => (
            <ClipHandles
              key={clip.start}
              {...{ clip, episode, page, start, frames, width, onEdit }}
              height={STRIP_PX}
            />
          ))}
      {page &&
        about?.held &&
        page.sounds
          .filter((one) => own?.some((clip) => clip.take === one.sound.take && covers(one, clip)))
          .map((one) => (
            <SoundHandles
              key={one.sound.id}
              placed={one}
              {...{ start, frames, width, onEdit }}
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

/** Whether a clip is of a placed sound. */
const covers = ({ at, length }: PageData["sounds"][number], clip: Clip) =>
  at !== null && at <= clip.start && clip.start < at + length;

/** Whether a track is not heard now. */
function silent(episode: Episode, track: Episode["tracks"][number]) {
  return track.muted || (!track.soloed && episode.tracks.some((t) => t.soloed));
}

interface HighlightProps extends LineSpan {
  full: number;
}

/** What of a selection lies on a line; `full` is the width of a line that is not the last. */
function Highlight({ start, frames, width, full }: HighlightProps) {
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

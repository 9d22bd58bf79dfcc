/** One line of the Page: some seconds of every track that sounds there, and the words under it. */
import { memo } from "react";
import type { PageData, Splice } from "../api/client";
import { clock } from "../time";
import { Landing } from "./Landing";
import { Turns } from "./LineWords";
import { flowing } from "./layout";
import { MarkerFlag } from "./MarkerFlag";
import { Playhead } from "./Playhead";
import { SectionName } from "./SectionName";
import { SelectionBar } from "./SelectionBar";
import { type LineProps, Strip } from "./Strip";
import { STRIP_PX } from "./span";
import "./page.css";

const NOTHING: Splice[] = [];

export const PageLine = memo(function PageLine(props: LineProps) {
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
        data-drawn={page?.revision}
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
            <Playhead {...{ start, frames, width }} />
          </div>
        )}
        <SelectionBar {...{ page, start, frames, width }} />
        {page && flowing(frames) && (
          <Turns {...{ episode, page, start, frames, splices }} onEdit={props.onEdit} />
        )}
      </div>
    </div>
  );
});

/** Whether a track has sound at a splice. */
const sounds = (page: PageData | undefined, track: string, at: number) =>
  page?.clips.some((c) => c.track === track && c.start <= at && c.start + c.frames >= at) ?? false;

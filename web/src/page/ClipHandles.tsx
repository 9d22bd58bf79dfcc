/**
 * What a clip can be taken hold of by: a grip to move it, its ends to trim it, corners to fade it.
 * All of it can also be typed in the clip's card beside the Page.
 */
import type { PointerEvent } from "react";
import type { Clip, Edit, Episode, PageData } from "../api/client";
import { seconds } from "../time";
import { snapped } from "./snap";
import { useDrag } from "./useDrag";
import { under } from "./usePointer";

interface Props {
  clip: Clip;
  episode: Episode;
  page: PageData;
  start: number;
  frames: number;
  width: number;
  height: number;
  onEdit: (edit: Edit) => void;
}

export function ClipHandles(props: Props) {
  const { clip, episode, start, frames, width, height, onEdit, page } = props;
  const scale = frames / width;
  const x = (frame: number) => (frame - start) / scale;
  const end = clip.start + clip.frames;
  const near = 9 * scale;
  const track = episode.tracks.find((t) => t.id === clip.track);
  const label = `${track?.name ?? "Clip"}, ${seconds(clip.frames)}`;

  const move = useDrag({
    scale,
    onDrop: (by: number, _: number, event: PointerEvent) => {
      // Where it is let go tells the line and the track; the grip tells how far into the clip.
      const target = under(event.clientX, event.clientY, Number.MAX_SAFE_INTEGER);
      const wanted = target && !target.word ? target.span.start : clip.start + by;
      const to = Math.max(0, snapped(wanted, near, page, clip));
      onEdit({
        kind: "move_clip",
        track: clip.track,
        at: clip.start,
        to_track: target?.track ?? clip.track,
        to,
      });
    },
  });
  const trim = (edge: "start" | "end") => ({
    scale,
    onDrop: (by: number) =>
      onEdit({
        kind: "trim_clip",
        track: clip.track,
        at: clip.start,
        start:
          edge === "start" ? Math.max(0, snapped(clip.start + by, near, page, clip)) : clip.start,
        end: edge === "end" ? Math.max(0, snapped(end + by, near, page, clip)) : end,
      }),
  });
  const trimStart = useDrag(trim("start"));
  const trimEnd = useDrag(trim("end"));
  const fade = (edge: "fade_in" | "fade_out") => ({
    scale,
    onDrop: (by: number) => {
      const length = edge === "fade_in" ? clip.fade_in + by : clip.fade_out - by;
      const held = Math.max(0, Math.min(clip.frames, 60 * 48_000, length));
      onEdit({ kind: "set_clip", track: clip.track, at: clip.start, [edge]: held });
    },
  });
  const fadeIn = useDrag(fade("fade_in"));
  const fadeOut = useDrag(fade("fade_out"));

  const shows = (frame: number) => frame >= start && frame < start + frames;
  const endFree = !page.clips.some((c) => c.track === clip.track && c.start === end);
  const endShows = endFree && end > start && end <= start + frames;
  const free = !clip.touches;
  const bar = { width: 8, top: 0, height, cursor: "ew-resize" } as const;
  const knob = {
    top: height - 12,
    width: 11,
    height: 11,
    borderRadius: 6,
    cursor: "ew-resize",
    border: "2px solid var(--chakra-colors-ink)",
    background: "var(--chakra-colors-paper)",
  } as const;
  return (
    <>
      {shows(clip.start) && (
        <>
          <div
            {...move.props}
            className="at-handle"
            data-clip-grip={clip.start}
            title={`Move this clip (${label})`}
            style={{
              left: x(clip.start) + (move.moved?.x ?? 0) + 8,
              top: -3,
              width: 26,
              height: 11,
              borderRadius: 4,
              cursor: "grab",
              background: "var(--chakra-colors-ink)",
              opacity: move.moved ? 0.8 : undefined,
            }}
          />
          <div
            {...trimStart.props}
            className="at-handle"
            title={`Where this clip begins (${label})`}
            style={{
              ...bar,
              left: x(clip.start) + (trimStart.moved?.x ?? 0),
              borderLeft: "3px solid var(--chakra-colors-ink)",
            }}
          />
          {free && (
            <div
              {...fadeIn.props}
              className="at-handle"
              title={`Fade in: ${seconds(clip.fade_in)}. Drag to change.`}
              style={{
                left: x(clip.start + clip.fade_in) + (fadeIn.moved?.x ?? 0) - 5,
                ...knob,
              }}
            />
          )}
        </>
      )}
      {endShows && (
        <>
          <div
            {...trimEnd.props}
            className="at-handle"
            title={`Where this clip ends (${label})`}
            style={{
              ...bar,
              left: x(end) + (trimEnd.moved?.x ?? 0) - 8,
              borderRight: "3px solid var(--chakra-colors-ink)",
            }}
          />
          <div
            {...fadeOut.props}
            className="at-handle"
            title={`Fade out: ${seconds(clip.fade_out)}. Drag to change.`}
            style={{
              left: x(end - clip.fade_out) + (fadeOut.moved?.x ?? 0) - 6,
              ...knob,
            }}
          />
        </>
      )}
    </>
  );
}

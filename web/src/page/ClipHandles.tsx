/**
 * What a clip can be taken hold of by: a grip to move it, its ends to trim it, corners to fade it.
 * All of it can also be typed in the clip's card beside the Page.
 */
import type { PointerEvent } from "react";
import type { Clip, Edit, Episode, PageData } from "../api/client";
import { LONGEST_FADE } from "../measures";
import { seconds } from "../time";
import { EdgeBar, FadeKnob, Grip } from "./handles";
import { snapped } from "./snap";
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

  const move = (by: number, _: number, event: PointerEvent) => {
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
  };
  const trim = (from: number, to: number) =>
    onEdit({ kind: "trim_clip", track: clip.track, at: clip.start, start: from, end: to });
  const snap = (frame: number) => Math.max(0, snapped(frame, near, page, clip));
  const fade = (edge: "fade_in" | "fade_out", length: number) =>
    onEdit({
      kind: "set_clip",
      track: clip.track,
      at: clip.start,
      [edge]: Math.max(0, Math.min(clip.frames, LONGEST_FADE, length)),
    });

  const shows = (frame: number) => frame >= start && frame < start + frames;
  const endFree = !page.clips.some((c) => c.track === clip.track && c.start === end);
  const endShows = endFree && end > start && end <= start + frames;
  return (
    <>
      {shows(clip.start) && (
        <>
          <Grip
            x={x(clip.start)}
            scale={scale}
            title={`Move this clip (${label})`}
            data-clip-grip={clip.start}
            onDrop={move}
          />
          <EdgeBar
            side="left"
            x={x(clip.start)}
            title={`Where this clip begins (${label})`}
            onDrop={(by) => trim(snap(clip.start + by), end)}
            {...{ scale, height }}
          />
          {!clip.touches && (
            <FadeKnob
              x={x(clip.start + clip.fade_in)}
              title={`Fade in: ${seconds(clip.fade_in)}. Drag to change.`}
              onDrop={(by) => fade("fade_in", clip.fade_in + by)}
              {...{ scale, height }}
            />
          )}
        </>
      )}
      {endShows && (
        <>
          <EdgeBar
            side="right"
            x={x(end)}
            title={`Where this clip ends (${label})`}
            onDrop={(by) => trim(clip.start, snap(end + by))}
            {...{ scale, height }}
          />
          <FadeKnob
            x={x(end - clip.fade_out)}
            title={`Fade out: ${seconds(clip.fade_out)}. Drag to change.`}
            onDrop={(by) => fade("fade_out", clip.fade_out - by)}
            {...{ scale, height }}
          />
        </>
      )}
    </>
  );
}

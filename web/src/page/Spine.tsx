/** The whole episode at a glance, running downwards; the part in view is a lens to drag. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import {
  memo,
  type PointerEvent,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { Episode } from "../api/client";
import { skylineOf } from "../api/stretch";
import { SPINE_PX } from "../measures";
import { inkOf } from "../theme/colours";
import { useMode } from "../theme/mode";
import { clock } from "../time";
import { useView } from "../view/view";
import { drawSpine, prepare } from "./draw";
import { MARKER_COLOURS } from "./MarkerFlag";

const BAR_PX = 46;
const SETTLED_MS = 300;
const ROW_PX = 4;

interface Props {
  episode: Episode;
  /** The part in view. */
  start: number;
  end: number;
  onGo: (frame: number) => void;
}

export function Spine({ episode, start, end, onGo }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(0);
  const settled = useSettled(episode);
  useLayoutEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) =>
      setHeight(Math.floor(entry?.contentRect.height ?? 0)),
    );
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const y = (frame: number) => (episode.frames ? (frame / episode.frames) * height : 0);
  const go = (event: PointerEvent<HTMLElement>) => {
    if (event.type === "pointermove" && event.buttons !== 1) return;
    const rect = event.currentTarget.getBoundingClientRect();
    onGo(((event.clientY - rect.top) / rect.height) * episode.frames);
  };

  return (
    <div className="at-spine" style={{ width: SPINE_PX }}>
      <div
        ref={box}
        className="at-spine-whole"
        role="slider"
        aria-orientation="vertical"
        aria-label="Whole episode"
        aria-valuemin={0}
        aria-valuemax={episode.frames}
        aria-valuenow={Math.round(start)}
        aria-valuetext={clock(start)}
        tabIndex={0}
        onKeyDown={(event) => {
          const steps: Record<string, number> = { ArrowDown: 0.02, ArrowUp: -0.02 };
          const step = steps[event.key];
          if (step === undefined) return;
          event.preventDefault();
          event.stopPropagation();
          onGo(Math.max(0, Math.min(episode.frames, start + step * episode.frames)));
        }}
        onPointerDown={go}
        onPointerMove={go}
      >
        <Whole episode={settled} height={height} />
        <div
          className="at-spine-lens"
          style={{
            top: Math.max(0, y(start)),
            height: Math.max(8, y(Math.min(end, episode.frames) - start)),
          }}
        />
      </div>
    </div>
  );
}

/** The episode once it has not changed for a moment: its picture takes longer than an edit. */
function useSettled(episode: Episode) {
  const [settled, setSettled] = useState(episode);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(episode), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [episode]);
  return settled;
}

/** What does not move while the Page is scrolled. */
const Whole = memo(function Whole({ episode, height }: { episode: Episode; height: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const mode = useMode((m) => m.mode);
  const hits = useView((v) => v.hits);
  const snags = useView((v) => v.snags);
  const { data } = useQuery({
    ...skylineOf(episode.id, episode.revision, 0, episode.frames, height),
    placeholderData: keepPreviousData,
    enabled: height > 0 && episode.frames > 0,
  });

  useEffect(() => {
    if (!canvas.current || !data || !height) return;
    const context = prepare(canvas.current, BAR_PX, height);
    if (!context) return;
    const rows = Math.min(height, data.columns);
    const loudest = Array.from({ length: rows }, (_, row) =>
      data.body.reduce(
        (best, body, i) => ((body[row] ?? 0) > (data.body[best]?.[row] ?? 0) ? i : best),
        0,
      ),
    );
    const columns = Uint8Array.from(loudest, (track, row) => data.body[track]?.[row] ?? 0);
    const inks = episode.tracks.map((track) => inkOf(episode.tracks, track.id, mode).body);
    context.globalAlpha = 0.75;
    drawSpine(context, columns, BAR_PX, rows, (row) => inks[loudest[row] ?? 0] ?? "#888");
  }, [data, height, episode.tracks, mode]);

  // One mark for all that lie as close as a mark is high: a long episode has thousands.
  const scale = episode.frames ? height / episode.frames : 0;
  const y = (frame: number) => frame * scale;
  const rows = useMemo(
    () => new Set(snags.map((s) => Math.round(((s.start + s.frames / 2) * scale) / ROW_PX))),
    [snags, scale],
  );
  return (
    <>
      {episode.sections.map((section, i) => (
        <div
          key={section.id}
          className="at-spine-section"
          style={{
            top: y(section.at) + 1,
            height: Math.max(2, y(section.frames) - 2),
            opacity: i % 2 ? 0.4 : 0.8,
          }}
          title={section.name}
        />
      ))}
      <canvas
        ref={canvas}
        style={{ position: "absolute", left: 14, top: 0, width: BAR_PX, height }}
      />
      {episode.markers.map((marker) => (
        <div
          key={marker.id}
          className="at-spine-marker"
          style={{
            top: y(marker.at),
            background: `var(--chakra-colors-${MARKER_COLOURS[marker.kind].replace(".", "-")})`,
          }}
          title={marker.name}
        />
      ))}
      {[...rows].map((row) => (
        <div key={row} className="at-spine-snag" style={{ top: row * ROW_PX }} />
      ))}
      {hits.map((hit) => (
        <div
          key={`${hit.track}:${hit.start}`}
          className="at-spine-hit"
          data-spine-hit=""
          style={{ top: y(hit.start) }}
        />
      ))}
      <Chosen scale={scale} />
    </>
  );
});

/** Where the selection lies. */
function Chosen({ scale }: { scale: number }) {
  const selection = useView((v) => v.selection);
  if (!selection) return null;
  const height = Math.max(3, (selection.end - selection.start) * scale);
  return <div className="at-spine-chosen" style={{ top: selection.start * scale, height }} />;
}

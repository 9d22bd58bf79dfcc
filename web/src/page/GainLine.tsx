/**
 * The gain of a track over time, as a line over its strip: a double click sets a point, points are
 * dragged, or moved with the arrow keys, typed, and deleted.
 */
import { type KeyboardEvent, useState } from "react";
import type { Edit, Episode } from "../api/client";
import { clock, figure } from "../time";
import { useDrag } from "./useDrag";

type Track = Episode["tracks"][number];
type Point = Track["envelope"][number];

const TOP_DB = 12;
const BOTTOM_DB = -36;

interface Props {
  track: Track;
  start: number;
  frames: number;
  width: number;
  height: number;
  onEdit: (edit: Edit) => void;
}

const yOf = (db: number, height: number) =>
  ((TOP_DB - Math.max(BOTTOM_DB, Math.min(TOP_DB, db))) / (TOP_DB - BOTTOM_DB)) * (height - 2) + 1;

/** The gain at a frame, as the line goes. */
function gainAt(points: Point[], frame: number): number {
  const after = points.findIndex((p) => p.at > frame);
  const right = points[after];
  const left = after < 0 ? points.at(-1) : points[after - 1];
  if (!left || !right) return (left ?? right)?.db ?? 0;
  let into = (frame - left.at) / Math.max(1, right.at - left.at);
  if (left.shape === "soft") into = 0.5 - 0.5 * Math.cos(Math.PI * into);
  return left.db + into * (right.db - left.db);
}

export function GainLine({ track, start, frames, width, height, onEdit }: Props) {
  const points = track.envelope;
  const scale = frames / width;
  const end = start + frames;
  const seen = points.map((p, i) => ({ ...p, i })).filter((p) => p.at >= start && p.at < end);
  // Placed sounds give way by themselves: their line is only shown.
  const moved = track.held ? [] : seen;
  const bends = [start, ...seen.map((p) => p.at), end];
  const steps = points.some((p) => p.shape === "soft")
    ? Array.from({ length: 60 }, (_, i) => start + (i / 59) * frames)
    : [];
  const path = [...bends, ...steps]
    .sort((a, b) => a - b)
    .map((at) => `${(at - start) / scale},${yOf(gainAt(points, at), height)}`)
    .join(" ");
  const set = (next: Point[]) =>
    onEdit({
      kind: "set_envelope",
      track: track.id,
      points: next.map((p) => ({ at: p.at, db: p.db, shape: p.shape ?? "straight" })),
    });
  return (
    <div
      style={{ position: "absolute", inset: 0, height, width, pointerEvents: "none", zIndex: 3 }}
    >
      <svg width={width} height={height} style={{ position: "absolute", pointerEvents: "none" }}>
        <title>{`Gain of ${track.name}.${track.held ? "" : " Double click for a point."}`}</title>
        {/* biome-ignore lint/a11y/noStaticElementInteractions: points are set by key as well */}
        <polyline
          points={path}
          fill="none"
          stroke="transparent"
          strokeWidth="9"
          style={{ pointerEvents: track.held ? "none" : "stroke", cursor: "copy" }}
          onDoubleClick={(event) => {
            const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
            const at = Math.round(start + (event.clientX - (box?.left ?? 0)) * scale);
            set([...points, { at, db: round(gainAt(points, at)), shape: "straight" }]);
          }}
        />
        <polyline
          points={path}
          fill="none"
          stroke="var(--chakra-colors-ochre)"
          strokeWidth="1.75"
        />
      </svg>
      {moved.map((p) => (
        <PointHandle
          key={`${p.i}:${p.at}`}
          point={p}
          name={track.name}
          x={(p.at - start) / scale}
          height={height}
          scale={scale}
          onSet={(next) =>
            set(points.flatMap((old, i) => (i === p.i ? (next ? [next] : []) : [old])))
          }
        />
      ))}
    </div>
  );
}

const round = (db: number) => Math.round(db * 10) / 10;

interface HandleProps {
  point: Point;
  name: string;
  x: number;
  height: number;
  scale: number;
  onSet: (point: Point | null) => void;
}

function PointHandle({ point, name, x, height, scale, onSet }: HandleProps) {
  const [typing, setTyping] = useState(false);
  const dbOf = (pixels: number) =>
    round(Math.max(-72, Math.min(24, point.db - (pixels / (height - 2)) * (TOP_DB - BOTTOM_DB))));
  const { moved, props } = useDrag({
    scale,
    onDrop: (by, pixels) => onSet({ ...point, at: Math.max(0, point.at + by), db: dbOf(pixels) }),
  });
  const key = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 0.1 : 1;
    const time = event.shiftKey ? 48 : 480;
    const moves: Record<string, Point | null> = {
      ArrowUp: { ...point, db: Math.min(24, round(point.db + step)) },
      ArrowDown: { ...point, db: Math.max(-72, round(point.db - step)) },
      ArrowLeft: { ...point, at: Math.max(0, point.at - time) },
      ArrowRight: { ...point, at: point.at + time },
      Delete: null,
      Backspace: null,
    };
    if (event.key === "Enter") setTyping(true);
    else if (event.key in moves) onSet(moves[event.key] ?? null);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const y = yOf(moved ? dbOf(moved.y) : point.db, height);
  const left = x + (moved?.x ?? 0);
  return (
    <>
      <button
        type="button"
        {...props}
        onDoubleClick={() => setTyping(true)}
        onKeyDown={key}
        data-gain-point={point.at}
        aria-label={`Gain of ${name} at ${clock(point.at)}: ${figure(point.db, "dB")}`}
        title={`${figure(point.db, "dB")}. Drag it, or double click to type; Delete takes it away.`}
        style={{
          position: "absolute",
          left: left - 6,
          top: y - 6,
          width: 12,
          height: 12,
          borderRadius: 6,
          border: "2px solid var(--chakra-colors-ochre)",
          background: "var(--chakra-colors-paper)",
          pointerEvents: "auto",
          cursor: "move",
          touchAction: "none",
        }}
      />
      {moved && (
        <span
          style={{
            position: "absolute",
            left: left + 9,
            top: Math.max(0, y - 16),
            fontSize: 12,
            background: "var(--chakra-colors-raised)",
            whiteSpace: "nowrap",
          }}
        >
          {figure(dbOf(moved.y), "dB")}
        </span>
      )}
      {typing && (
        <form
          style={{
            position: "absolute",
            left: Math.max(0, left - 20),
            top: 2,
            pointerEvents: "auto",
            display: "flex",
            background: "var(--chakra-colors-raised)",
            border: "1px solid var(--chakra-colors-rule)",
          }}
          onSubmit={(event) => {
            event.preventDefault();
            const form = new FormData(event.currentTarget);
            const db = Number(String(form.get("db")).replace(",", ".").replace("−", "-"));
            setTyping(false);
            if (Number.isFinite(db)) {
              const shape = form.get("soft") ? "soft" : "straight";
              onSet({ ...point, db: Math.max(-72, Math.min(24, db)), shape });
            }
          }}
          onKeyDown={(event) => event.key === "Escape" && setTyping(false)}
        >
          <input
            name="db"
            aria-label="Gain in dB"
            defaultValue={point.db}
            size={5}
            // biome-ignore lint/a11y/noAutofocus: it was opened to be typed in
            autoFocus
          />
          <label style={{ fontSize: 12, padding: "0 4px" }}>
            <input type="checkbox" name="soft" defaultChecked={point.shape === "soft"} /> soft
          </label>
          <button type="submit" style={{ fontSize: 12, padding: "0 6px" }}>
            Set
          </button>
        </form>
      )}
    </>
  );
}

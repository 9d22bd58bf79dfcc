/** What is taken hold of on a strip: a grip to move something, its edges, the ends of its fades. */
import type { CSSProperties } from "react";
import { useDrag } from "./useDrag";

interface Props {
  /** Where it stands, in pixels on the line. */
  x: number;
  title: string;
  /** Frames of a pixel. */
  scale: number;
  onDrop: Parameters<typeof useDrag>[0]["onDrop"];
}

export function Grip({
  x,
  title,
  scale,
  onDrop,
  ...rest
}: Props & Record<`data-${string}`, unknown>) {
  const { moved, props } = useDrag({ scale, onDrop });
  const style: CSSProperties = {
    left: x + (moved?.x ?? 0) + 8,
    top: -3,
    width: 26,
    height: 11,
    borderRadius: 4,
    cursor: "grab",
    background: "var(--chakra-colors-ink)",
    opacity: moved ? 0.8 : undefined,
  };
  return <div {...props} {...rest} className="at-handle" title={title} style={style} />;
}

const BAR = "3px solid var(--chakra-colors-ink)";

export function EdgeBar({
  x,
  title,
  scale,
  onDrop,
  side,
  height,
}: Props & { side: "left" | "right"; height: number }) {
  const { moved, props } = useDrag({ scale, onDrop });
  const style: CSSProperties = {
    width: 8,
    top: 0,
    height,
    cursor: "ew-resize",
    left: x + (moved?.x ?? 0) - (side === "left" ? 0 : 8),
    [side === "left" ? "borderLeft" : "borderRight"]: BAR,
  };
  return <div {...props} className="at-handle" title={title} style={style} />;
}

export function FadeKnob({ x, title, scale, onDrop, height }: Props & { height: number }) {
  const { moved, props } = useDrag({ scale, onDrop });
  const style: CSSProperties = {
    left: x + (moved?.x ?? 0) - 5,
    top: height - 12,
    width: 11,
    height: 11,
    borderRadius: 6,
    cursor: "ew-resize",
    border: "2px solid var(--chakra-colors-ink)",
    background: "var(--chakra-colors-paper)",
  };
  return <div {...props} className="at-handle" title={title} style={style} />;
}

/** Taking hold of something on a line and moving it: how far, in frames and in pixels. */
import { type PointerEvent, useRef, useState } from "react";

interface Options {
  /** Frames of one pixel. */
  scale: number;
  onMove?: (frames: number, pixels: number) => void;
  onDrop: (frames: number, pixels: number, event: PointerEvent<HTMLElement>) => void;
}

/** Properties for the thing to be held; while it is held, how far it was moved. */
export function useDrag({ scale, onMove, onDrop }: Options) {
  const from = useRef<{ x: number; y: number } | null>(null);
  const [moved, setMoved] = useState<{ x: number; y: number } | null>(null);
  return {
    moved,
    props: {
      "data-held": moved ? "" : undefined,
      onPointerDown: (event: PointerEvent<HTMLElement>) => {
        if (event.button !== 0) return;
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = { x: event.clientX, y: event.clientY };
      },
      onPointerMove: (event: PointerEvent<HTMLElement>) => {
        if (!from.current) return;
        const x = event.clientX - from.current.x;
        const y = event.clientY - from.current.y;
        setMoved({ x, y });
        onMove?.(Math.round(x * scale), y);
      },
      onPointerUp: (event: PointerEvent<HTMLElement>) => {
        const begun = from.current;
        from.current = null;
        setMoved(null);
        if (!begun) return;
        const x = event.clientX - begun.x;
        const y = event.clientY - begun.y;
        if (Math.abs(x) + Math.abs(y) > 2) onDrop(Math.round(x * scale), y, event);
      },
      onPointerCancel: () => {
        from.current = null;
        setMoved(null);
      },
    },
  };
}

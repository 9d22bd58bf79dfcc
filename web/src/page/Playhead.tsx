/** The playhead on a strip. */
import { useRef } from "react";
import { usePlayhead } from "../playback/playhead";
import { palette } from "../theme/colours";
import { useMode } from "../theme/mode";
import { type LineSpan, STRIP_PX } from "./span";

export function Playhead({ start, frames, width }: LineSpan) {
  const bar = useRef<HTMLDivElement>(null);
  const mode = useMode((m) => m.mode);
  usePlayhead((at) => {
    if (!bar.current) return;
    const here = at >= start && at < start + frames;
    bar.current.style.display = here ? "block" : "none";
    if (here) bar.current.style.transform = `translateX(${((at - start) / frames) * width}px)`;
  });
  return (
    <div
      ref={bar}
      data-playhead=""
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

/** Keeps a frame of the Page in view. */
import { useEffect, useLayoutEffect, useRef } from "react";
import { position, usePlayer } from "../playback/player";
import { useView } from "../view/view";

interface Lines {
  scrollToIndex: (index: number, options: { align: "auto" | "center" }) => void;
  getTotalSize: () => number;
}

/** A frame to keep in view: anywhere (`auto`), or in the middle after a change of zoom. */
interface Kept {
  frame: number;
  align: "auto" | "center";
}

/**
 * Scrolls to the playhead when it moves, and keeps the pointed frame, or else the playhead, in
 * place when the zoom changes. Lines change their height when their words arrive, so the frame
 * stays in view until the host does something else. During playback it follows the playhead.
 */
export function useInView(lines: Lines, lineSeconds: number, lineFrames: number) {
  const playing = usePlayer((p) => p.playing);
  const at = usePlayer((p) => p.at);
  const before = useRef({ at: 0, lineSeconds });
  const kept = useRef<Kept | null>(null);
  const height = lines.getTotalSize();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the offset of a frame depends on the height of the lines
  useLayoutEffect(() => {
    const was = before.current;
    before.current = { at, lineSeconds };
    if (was.lineSeconds !== lineSeconds) {
      kept.current = { frame: useView.getState().anchor ?? position(), align: "center" };
    } else if (was.at !== at) kept.current = at === 0 ? null : { frame: at, align: "auto" };
    else if (playing) kept.current = null;
    if (!kept.current) return;
    const { frame, align } = kept.current;
    lines.scrollToIndex(Math.floor(frame / lineFrames), { align });
  }, [lines, lineSeconds, lineFrames, at, playing, height]);
  useEffect(() => {
    const leave = () => {
      kept.current = null;
    };
    // Capture runs before the handlers that zoom, which set a new frame.
    const events = ["wheel", "pointerdown", "keydown"];
    for (const name of events) addEventListener(name, leave, { capture: true, passive: true });
    return () => {
      for (const name of events) removeEventListener(name, leave, { capture: true });
    };
  }, []);
  useEffect(() => {
    if (!playing) return;
    let last = -1;
    const timer = setInterval(() => {
      const line = Math.floor(position() / lineFrames);
      if (line !== last) lines.scrollToIndex(line, { align: "auto" });
      last = line;
    }, 200);
    return () => clearInterval(timer);
  }, [playing, lines, lineFrames]);
}

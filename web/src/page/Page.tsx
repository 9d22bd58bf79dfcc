/** The Page: the episode written out in lines, as tall as it is long, drawn where it is looked at. */
import { Box } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type PointerEvent, useEffect, useLayoutEffect, useRef, useState } from "react";
import { type Episode, RATE } from "../api/client";
import { useEdit } from "../api/queries";
import { place, position, usePlayer } from "../playback/player";
import { linesAStretch, useSkyline, useStretch } from "./data";
import { GUTTER_PX, PageLine } from "./PageLine";
import { Spine } from "./Spine";
import { type Span, useView } from "./view";

const RIGHT_PX = 28;

export function Page({ episode }: { episode: Episode }) {
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const lineSeconds = useView((v) => v.lineSeconds);
  const zoom = useView((v) => v.zoom);
  const lineFrames = lineSeconds * RATE;
  const count = Math.ceil(episode.frames / lineFrames);

  useLayoutEffect(() => {
    const box = scroller.current;
    if (!box) return;
    const fit = () => setWidth(Math.max(200, box.clientWidth - GUTTER_PX - RIGHT_PX - 16));
    fit();
    const watch = new ResizeObserver(fit);
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  const lines = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => 46 + 27 + 16 + Math.max(0, lineSeconds - 10) * 3,
    overscan: 4,
  });

  // Zooming keeps the playhead's line where it is on the screen.
  const before = useRef(lineSeconds);
  useLayoutEffect(() => {
    if (before.current === lineSeconds) return;
    before.current = lineSeconds;
    lines.measure();
    lines.scrollToIndex(Math.floor(position() / lineFrames), { align: "center" });
  }, [lineSeconds, lineFrames, lines]);

  useFollow(lines, lineFrames);

  useEffect(() => {
    const box = scroller.current;
    const wheel = (event: WheelEvent) => {
      if (!event.ctrlKey || Math.abs(event.deltaY) < 4) return;
      event.preventDefault();
      zoom(event.deltaY < 0);
    };
    box?.addEventListener("wheel", wheel, { passive: false });
    return () => box?.removeEventListener("wheel", wheel);
  }, [zoom]);

  const items = lines.getVirtualItems();
  const first = items[0];
  const last = items.at(-1);
  const top = lines.scrollOffset ?? 0;
  const seen = {
    start: frameAt(items, top, lineFrames),
    end: frameAt(items, top + (scroller.current?.clientHeight ?? 0), lineFrames),
  };

  return (
    <Box display="flex" flex="1" minW="0" minH="0">
      <Spine
        episode={episode}
        seen={first && last ? seen : { start: 0, end: 0 }}
        onGo={(frame) =>
          lines.scrollToIndex(Math.max(0, Math.floor(frame / lineFrames)), { align: "center" })
        }
      />
      <Box
        ref={scroller}
        flex="1"
        overflowY="auto"
        overflowX="hidden"
        px="8px"
        pt="10px"
        tabIndex={0}
        aria-label="The Page"
        data-testid="page"
        userSelect="none"
        outline="none"
        {...usePointer(episode.frames)}
      >
        <Box position="relative" h={`${lines.getTotalSize()}px`}>
          {width > 0 &&
            items.map((item) => (
              <Box
                key={item.key}
                ref={lines.measureElement}
                data-index={item.index}
                position="absolute"
                top="0"
                left="0"
                w="100%"
                transform={`translateY(${item.start}px)`}
              >
                <LineOf
                  episode={episode}
                  index={item.index}
                  lineSeconds={lineSeconds}
                  width={width}
                />
              </Box>
            ))}
        </Box>
      </Box>
    </Box>
  );
}

interface LineOfProps {
  episode: Episode;
  index: number;
  lineSeconds: number;
  width: number;
}

/** A line with the stretch it belongs to. */
function LineOf({ episode, index, lineSeconds, width }: LineOfProps) {
  const edit = useEdit(episode.id);
  const per = linesAStretch(lineSeconds);
  const lineFrames = lineSeconds * RATE;
  const start = Math.floor(index / per) * per * lineFrames;
  const ratio = Math.min(2, Math.max(1, Math.ceil(devicePixelRatio)));
  const columns = width * ratio;
  const page = useStretch(episode.id, episode.revision, start, per * lineFrames);
  const skyline = useSkyline(episode.id, episode.revision, start, per * lineFrames, per * columns);
  // What is kept while a new zoom loads belongs to other lines: better blank for a moment.
  const fits =
    skyline.data?.columns === per * columns &&
    !(skyline.isPlaceholderData && page.data?.start !== start);
  return (
    <PageLine
      episode={episode}
      start={index * lineFrames}
      frames={lineFrames}
      width={width}
      page={page.data}
      skyline={fits ? skyline.data : undefined}
      column={(index % per) * columns}
      columns={columns}
      onRestore={(splice) => edit.mutate({ kind: "restore", cut: splice.cut })}
      onUnmark={(marker) => edit.mutate({ kind: "remove_marker", marker: marker.id })}
    />
  );
}

function frameAt(
  items: { index: number; start: number; end: number }[],
  offset: number,
  lineFrames: number,
): number {
  const item = items.find((i) => i.end > offset) ?? items.at(-1);
  if (!item) return 0;
  const into = (offset - item.start) / Math.max(1, item.end - item.start);
  return (item.index + Math.max(0, Math.min(1, into))) * lineFrames;
}

/** While it plays, the line with the playhead stays in view, unless the host looks elsewhere. */
function useFollow(
  lines: { scrollToIndex: (index: number, options: { align: "auto" }) => void },
  lineFrames: number,
) {
  const playing = usePlayer((p) => p.playing);
  const at = usePlayer((p) => p.at);
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
  // Lines take their height when their words have come, so one scroll may stop short of the mark.
  useEffect(() => {
    if (at === 0) return;
    const show = () => lines.scrollToIndex(Math.floor(at / lineFrames), { align: "auto" });
    show();
    const again = [200, 600, 1200].map((ms) => setTimeout(show, ms));
    const leave = () => again.forEach(clearTimeout);
    addEventListener("wheel", leave, { once: true });
    addEventListener("pointerdown", leave, { once: true });
    return () => {
      leave();
      removeEventListener("wheel", leave);
      removeEventListener("pointerdown", leave);
    };
  }, [at, lines, lineFrames]);
}

/** Selecting by dragging over sound (to the frame) or words (whole words); a click places. */
function usePointer(total: number) {
  const select = useView((v) => v.select);
  const drag = useRef<{
    anchor: Span;
    words: boolean;
    x: number;
    y: number;
    moved: boolean;
  } | null>(null);

  const at = (x: number, y: number): { span: Span; word: boolean } | null => {
    const under = document.elementFromPoint(x, y);
    const word = under?.closest<HTMLElement>("[data-start]");
    if (word) {
      return {
        span: { start: Number(word.dataset.start), end: Number(word.dataset.end) },
        word: true,
      };
    }
    const line = under?.closest<HTMLElement>("[data-line]");
    if (!line) return null;
    const box = line.getBoundingClientRect();
    const into = Math.max(0, Math.min(1, (x - box.left) / box.width));
    const frame = Math.round(Number(line.dataset.line) + into * Number(line.dataset.frames));
    const clamped = Math.min(total, frame);
    return { span: { start: clamped, end: clamped }, word: false };
  };

  return {
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      if (event.button !== 0 || (event.target as Element).closest("button")) return;
      const here = at(event.clientX, event.clientY);
      if (!here) return;
      const { selection } = useView.getState();
      const anchor =
        event.shiftKey && selection
          ? selection
          : event.shiftKey
            ? { start: position(), end: position() }
            : here.span;
      drag.current = {
        anchor,
        words: here.word,
        x: event.clientX,
        y: event.clientY,
        moved: event.shiftKey,
      };
      if (event.shiftKey) select(joined(anchor, here.span));
      else if (here.word) select(here.span);
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) => {
      const now = drag.current;
      if (!now || event.buttons !== 1) return;
      const far = Math.abs(event.clientX - now.x) + Math.abs(event.clientY - now.y) > 3;
      if (!far && !now.moved) return;
      now.moved = true;
      const here = at(event.clientX, event.clientY);
      if (here && (here.word || !now.words)) select(joined(now.anchor, here.span));
    },
    onPointerUp: (event: PointerEvent<HTMLElement>) => {
      const now = drag.current;
      drag.current = null;
      if (!now) return;
      if (now.moved) {
        const { selection } = useView.getState();
        if (selection && !usePlayer.getState().playing) place(selection.start);
        return;
      }
      const here = at(event.clientX, event.clientY);
      if (!here) return;
      place(here.span.start);
      if (!here.word) select(null);
    },
  };
}

const joined = (a: Span, b: Span): Span => ({
  start: Math.min(a.start, b.start),
  end: Math.max(a.end, b.end),
});

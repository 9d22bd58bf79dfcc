/** The Page: the episode written out in lines, as tall as it is long, drawn where it is looked at. */
import { useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import {
  memo,
  useCallback,
  useDeferredValue,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import { moveTo } from "../actions/moving";
import { type Edit, type Episode, RATE } from "../api/client";
import { type How, inView, useEdit, useEpisode, useEpisodeAt } from "../api/queries";
import { columnsOf, linesAStretch, lineWidth } from "../measures";
import { fetchStretch, useSkyline, useStretch, useWave } from "../view/data";
import { type Span, useView } from "../view/view";
import type { LandingMark } from "./Landing";
import { useLooking } from "./looking";
import { PageLine } from "./PageLine";
import { Spine } from "./Spine";
import { useInView } from "./useInView";
import { under, usePointer } from "./usePointer";

/** How many stretches on either side of those in view are fetched. */
const AHEAD = 2;
/** How many stretches come at most with the answer to a change. */
const MOST_SHOWN = 3;

/** The Page of an episode as it stands now, or as it was before its last edit. */
export const Page = memo(function Page({ id }: { id: number }) {
  // Of its own, so that a change draws the lines in view and nothing else before they are seen.
  const { data: now } = useEpisode(id);
  const before = useView((v) => v.before);
  const { data: earlier } = useEpisodeAt(id, now?.before ?? 0, before);
  const episode = before && earlier ? earlier : now;
  return episode && <Lines episode={episode} />;
});

function Lines({ episode }: { episode: Episode }) {
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const lineSeconds = useView((v) => v.lineSeconds);
  const zoom = useView((v) => v.zoom);
  const standing = useView((v) => v.standing);
  const lineFrames = lineSeconds * RATE;
  const count = Math.ceil(episode.frames / lineFrames);

  useLayoutEffect(() => {
    const box = scroller.current;
    if (!box) return;
    const measure = () => setWidth(lineWidth(box.clientWidth));
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  const strips = Math.max(1, Math.min(4, episode.tracks.length));
  const lines = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => strips * (46 + 27) + 16 + Math.max(0, lineSeconds - 10) * 3,
    // Lines of another length are other lines: what was measured of the old ones is left behind.
    getItemKey: useCallback((index: number) => `${lineSeconds}:${index}`, [lineSeconds]),
    // What is in view comes first.
    overscan: standing ? 3 : 0,
    useFlushSync: false,
  });

  useInView(lines, lineSeconds, lineFrames);

  useEffect(() => {
    const box = scroller.current;
    const closer = (x: number, y: number, in_: boolean) =>
      zoom(in_, under(x, y, episode.frames)?.span.start);
    const wheel = (event: WheelEvent) => {
      // Pinching a touchpad arrives as a wheel with Ctrl.
      if (!event.ctrlKey || Math.abs(event.deltaY) < 4) return;
      event.preventDefault();
      closer(event.clientX, event.clientY, event.deltaY < 0);
    };
    let apart = 0;
    const spread = (event: TouchEvent) => {
      const [a, b] = [event.touches[0], event.touches[1]];
      if (!a || !b) return;
      event.preventDefault();
      const now = Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY);
      if (event.type === "touchstart") apart = now;
      else if (now > apart * 1.35 || now < apart / 1.35) {
        closer((a.clientX + b.clientX) / 2, (a.clientY + b.clientY) / 2, now > apart);
        apart = now;
      }
    };
    box?.addEventListener("wheel", wheel, { passive: false });
    box?.addEventListener("touchstart", spread, { passive: false });
    box?.addEventListener("touchmove", spread, { passive: false });
    return () => {
      box?.removeEventListener("wheel", wheel);
      box?.removeEventListener("touchstart", spread);
      box?.removeEventListener("touchmove", spread);
    };
  }, [zoom, episode.frames]);

  const items = lines.getVirtualItems();
  const first = items[0];
  const last = items.at(-1);
  const top = lines.scrollOffset ?? 0;
  const seen = {
    start: frameAt(items, top, lineFrames),
    end: frameAt(items, top + (scroller.current?.clientHeight ?? 0), lineFrames),
  };
  useStretches(episode, first?.index ?? 0, last?.index ?? 0, seen, count, lineSeconds, width);
  useLooking(episode, seen.start);
  const edit = useEdit(episode.id);
  // What is out of view is drawn a moment later.
  const calm = useDeferredValue(episode);
  const bottom = top + (scroller.current?.clientHeight ?? Number.POSITIVE_INFINITY);
  const pointer = usePointer(episode, (span, to, on) =>
    moveTo({ edit: edit.mutate }, span, to, on),
  );
  const carrying = useView((v) => v.carrying !== null);
  const goTo = useCallback(
    (frame: number) =>
      lines.scrollToIndex(Math.max(0, Math.floor(frame / lineFrames)), { align: "center" }),
    [lines, lineFrames],
  );

  return (
    <div className="at-page">
      <Spine
        episode={episode}
        start={first && last ? seen.start : 0}
        end={first && last ? seen.end : 0}
        onGo={goTo}
      />
      <section
        ref={scroller}
        className="at-scroller"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: keys act on it
        tabIndex={0}
        aria-label="The Page"
        data-testid="page"
        data-carrying={carrying ? "" : undefined}
        {...pointer}
      >
        <div style={{ position: "relative", height: lines.getTotalSize() }}>
          {width > 0 &&
            items.map((item) => (
              <div
                key={item.key}
                ref={lines.measureElement}
                data-index={item.index}
                style={{ position: "absolute", top: item.start, left: 0, width: "100%" }}
              >
                <LineOf
                  episode={item.end > top && item.start < bottom ? episode : calm}
                  index={item.index}
                  lineSeconds={lineSeconds}
                  width={width}
                  onEdit={edit.mutate}
                />
              </div>
            ))}
        </div>
      </section>
    </div>
  );
}

interface LineOfProps {
  episode: Episode;
  index: number;
  lineSeconds: number;
  width: number;
  landing?: LandingMark;
  onEdit: (edit: Edit, how?: How) => void;
}

/** Fetches the stretches in view, then those before and after, and tells what is in view. */
function useStretches(
  episode: Episode,
  first: number,
  last: number,
  seen: Span,
  count: number,
  lineSeconds: number,
  width: number,
) {
  const queries = useQueryClient();
  const per = linesAStretch(lineSeconds);
  const from = Math.floor(first / per);
  const to = Math.floor(last / per);
  const end = Math.floor((count - 1) / per);
  const { id, revision } = episode;
  const visible = useRef(seen);
  visible.current = seen;
  useEffect(() => {
    if (width <= 0) return;
    const frames = per * lineSeconds * RATE;
    const columns = per * columnsOf(width);
    const fetchAll = (of: number, low: number, high: number) =>
      Promise.all(
        Array.from({ length: Math.max(0, high - low + 1) }, (_, i) =>
          fetchStretch(queries, id, of, (low + i) * frames, frames, columns),
        ),
      );
    let left = false;
    // What has come with the answer to a change is drawn before more is asked for.
    const begin = setTimeout(async () => {
      await fetchAll(revision, from, to);
      if (left) return;
      useView.setState({ standing: true });
      void fetchAll(revision, to + 1, Math.min(end, to + AHEAD));
      void fetchAll(revision, Math.max(0, from - AHEAD), from - 1);
    });
    inView.stretches = (episode) => {
      if (episode !== id) return [];
      const low = Math.floor(visible.current.start / frames);
      const high = Math.min(low + MOST_SHOWN - 1, Math.floor(visible.current.end / frames));
      return Array.from({ length: Math.max(1, high - low + 1) }, (_, i) => ({
        start: (low + i) * frames,
        frames,
        columns,
      }));
    };
    return () => {
      left = true;
      clearTimeout(begin);
      inView.stretches = () => [];
    };
  }, [queries, id, revision, from, to, end, per, lineSeconds, width]);
}

/** A line with the stretch it belongs to. */
export const LineOf = memo(function LineOf({
  episode,
  index,
  lineSeconds,
  width,
  landing,
  onEdit,
}: LineOfProps) {
  const per = linesAStretch(lineSeconds);
  const lineFrames = lineSeconds * RATE;
  const start = Math.floor(index / per) * per * lineFrames;
  const columns = columnsOf(width);
  const frames = per * lineFrames;
  const page = useStretch(episode.id, episode.revision, start, frames);
  const skyline = useSkyline(episode.id, episode.revision, start, frames, per * columns);
  const exact = lineSeconds <= 2;
  const wave = useWave(episode.id, episode.revision, start, frames, per * columns, exact);
  // What is drawn may be of an earlier revision, until the stretch of this one has come.
  const drawn = page.data?.revision ?? episode.revision;
  const edit = useCallback((made: Edit) => onEdit(made, { on: drawn }), [onEdit, drawn]);
  return (
    <PageLine
      episode={episode}
      start={index * lineFrames}
      frames={lineFrames}
      width={width}
      page={page.data}
      skyline={skyline.data}
      wave={exact ? wave.data : undefined}
      column={(index % per) * columns}
      columns={columns}
      landing={landing}
      onEdit={edit}
    />
  );
});

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

/** Loudness over time, before and after, against the target, with the peaks that the limiter has to
 * hold; a click goes there. */
import { Box } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { type Episode, type Levels, RATE } from "../../api/client";
import { place } from "../../playback/player";
import { followPlayhead } from "../../playback/playhead";
import { palette } from "../../theme/colours";
import { useMode } from "../../theme/mode";
import { clock } from "../../time";

const FLOOR = -48;
const HEIGHT = 230;
/** With what its lines are called beneath it: what follows does not jump when they come. */
export const WHOLE_PX = 262;

/** How far from its target an episode may be (common practice). */
const NEAR_LU = 1;

export function Curve({ levels, episode }: { levels: Levels; episode: Episode }) {
  const box = useRef<HTMLDivElement>(null);
  const mode = useMode((m) => m.mode);
  useEffect(() => {
    const host = box.current;
    if (!host) return;
    const ink = palette(mode);
    const target = episode.loudness.target;
    const body = ink.voices[0]?.body ?? "#000";
    const times = levels.curve_before.map((_, i) => i + 1.5);
    const shown = (values: number[]) => values.map((v) => (v < FLOOR ? null : v));
    const font = "12px 'Atkinson Hyperlegible'";
    const axis = {
      font,
      stroke: ink.quiet,
      grid: { stroke: ink.rule, width: 1 },
      ticks: { stroke: ink.rule },
    };
    const plot = new uPlot(
      {
        width: host.clientWidth,
        height: HEIGHT,
        legend: { live: false },
        cursor: { drag: { x: false, y: false } },
        scales: { x: { time: false }, y: { range: [FLOOR, -6] } },
        axes: [
          { ...axis, values: (_, ticks) => ticks.map((t) => clock(t * RATE, 0)) },
          {
            ...axis,
            size: 46,
            label: "LUFS",
            labelSize: 20,
            labelFont: font,
            values: (_, ticks) => ticks.map((t) => `${t}`.replace("-", "−")),
          },
        ],
        series: [
          { label: "Time" },
          {
            label: "Before (LUFS)",
            stroke: ink.music.body,
            width: 1.5,
            dash: [5, 4],
            spanGaps: false,
          },
          { label: "After (LUFS)", stroke: body, width: 2, spanGaps: false },
          { label: "Loudest moment (LUFS)", stroke: ink.voices[1]?.body ?? body, width: 1 },
          { label: "Target", stroke: ink.apricot, width: 1.5 },
        ],
        hooks: {
          drawClear: [
            (u) => {
              const high = u.valToPos(target + NEAR_LU, "y", true);
              const low = u.valToPos(target - NEAR_LU, "y", true);
              u.ctx.save();
              u.ctx.fillStyle = `${ink.apricot}55`;
              u.ctx.fillRect(u.bbox.left, high, u.bbox.width, low - high);
              u.ctx.restore();
            },
          ],
          draw: [
            (u) => {
              u.ctx.save();
              u.ctx.fillStyle = ink.apricot;
              for (const over of levels.overs) {
                const x = u.valToPos(over.at / RATE, "x", true);
                const size = (4 + Math.min(4, over.over_db / 2)) * devicePixelRatio;
                u.ctx.beginPath();
                u.ctx.moveTo(x - size, u.bbox.top);
                u.ctx.lineTo(x + size, u.bbox.top);
                u.ctx.lineTo(x, u.bbox.top + 1.6 * size);
                u.ctx.fill();
              }
              u.ctx.strokeStyle = ink.quiet;
              u.ctx.setLineDash([2, 3]);
              for (const section of episode.sections.slice(1)) {
                const x = Math.round(u.valToPos(section.at / RATE, "x", true));
                u.ctx.beginPath();
                u.ctx.moveTo(x, u.bbox.top);
                u.ctx.lineTo(x, u.bbox.top + u.bbox.height);
                u.ctx.stroke();
              }
              u.ctx.restore();
            },
          ],
        },
      },
      [
        times,
        shown(levels.curve_before),
        shown(levels.curve_after),
        shown(times.map((_, i) => levels.momentary_after[i + 1] ?? FLOOR - 1)),
        times.map(() => target),
      ],
      host,
    );
    const watch = new ResizeObserver(() =>
      plot.setSize({ width: host.clientWidth, height: HEIGHT }),
    );
    watch.observe(host);
    const go = (event: MouseEvent) => {
      const x = event.clientX - plot.over.getBoundingClientRect().left;
      const near = levels.overs
        .map((over) => ({ at: over.at, away: Math.abs(plot.valToPos(over.at / RATE, "x") - x) }))
        .sort((a, b) => a.away - b.away)[0];
      place(near && near.away < 6 ? near.at : plot.posToVal(x, "x") * RATE);
    };
    plot.over.addEventListener("click", go);
    const head = document.createElement("div");
    head.style.cssText = `position:absolute;top:0;bottom:0;width:2px;pointer-events:none;background:${ink.apricot}`;
    plot.over.append(head);
    const leave = followPlayhead((at) => {
      head.style.transform = `translateX(${plot.valToPos(at / RATE, "x") - 1}px)`;
    });
    return () => {
      leave();
      watch.disconnect();
      plot.destroy();
    };
  }, [levels, episode.sections, episode.loudness.target, mode]);
  return (
    <Box
      ref={box}
      data-testid="curve"
      minH={`${WHOLE_PX}px`}
      css={{
        "&, & .uplot": { fontFamily: "body" },
        "& .u-over": { cursor: "pointer" },
        "& .u-legend": { fontSize: "13px", color: "quiet" },
        "& .u-legend th": { fontWeight: "400" },
      }}
    />
  );
}

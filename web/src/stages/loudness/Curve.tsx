/** Short-term loudness over time, before and after, against the target. */
import { Box } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { type Episode, type Levels, RATE } from "../../api/client";
import { palette } from "../../theme/colours";
import { useMode } from "../../theme/mode";
import { clock } from "../../time";

const FLOOR = -48;
const HEIGHT = 230;

export function Curve({ levels, episode }: { levels: Levels; episode: Episode }) {
  const box = useRef<HTMLDivElement>(null);
  const mode = useMode((m) => m.mode);
  useEffect(() => {
    const host = box.current;
    if (!host) return;
    const ink = palette(mode);
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
          { label: "Target", stroke: ink.apricot, width: 1.5 },
        ],
        hooks: {
          draw: [
            (u) => {
              u.ctx.save();
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
        times.map(() => episode.loudness.target),
      ],
      host,
    );
    const watch = new ResizeObserver(() =>
      plot.setSize({ width: host.clientWidth, height: HEIGHT }),
    );
    watch.observe(host);
    return () => {
      watch.disconnect();
      plot.destroy();
    };
  }, [levels, episode.sections, episode.loudness.target, mode]);
  return (
    <Box
      ref={box}
      data-testid="curve"
      css={{
        "&, & .uplot": { fontFamily: "body" },
        "& .u-legend": { fontSize: "13px", color: "quiet" },
        "& .u-legend th": { fontWeight: "400" },
      }}
    />
  );
}

/** The curve of the filters over the spectrum of the voice and of its room, with a point for each
 * band that can be dragged. */
import { Box, HStack } from "@chakra-ui/react";
import type { Band, Schemas } from "../../api/client";
import { useCurves } from "../../api/queries";
import { palette } from "../../theme/colours";
import { useMode } from "../../theme/mode";
import type { Treatment } from "./treatment";
import { useWidth } from "./useWidth";

const HEIGHT = 250;
const LEFT = 38;
const RIGHT = 44;
const TOP = 10;
const BOTTOM = 22;
const MOST_DB = 18;
const LOUD = -20;
const FAINT = -100;
const LOW_HZ = 20;
const HIGH_HZ = 20_000;
const GRID_HZ = [50, 100, 200, 500, 1000, 2000, 5000, 10_000];
const STEP_HZ = 2 ** (1 / 12);

interface Props {
  treatment: Treatment;
  sound: Schemas["SoundView"] | undefined;
  name: string;
}

export function Graph({ treatment, sound, name }: Props) {
  const { chain, attempt, set } = treatment;
  const mode = useMode((m) => m.mode);
  const ink = palette(mode);
  const [ref, width] = useWidth(800);
  const { data: curves } = useCurves(chain);
  const bands = chain.bands ?? [];

  const x = (hz: number) =>
    LEFT + (Math.log(hz / LOW_HZ) / Math.log(HIGH_HZ / LOW_HZ)) * (width - LEFT - RIGHT);
  const y = (db: number) => TOP + ((MOST_DB - db) / (2 * MOST_DB)) * (HEIGHT - TOP - BOTTOM);
  const level = (db: number) =>
    TOP + ((LOUD - Math.max(FAINT, Math.min(LOUD, db))) / (LOUD - FAINT)) * (HEIGHT - TOP - BOTTOM);
  const hzAt = (px: number) =>
    LOW_HZ * (HIGH_HZ / LOW_HZ) ** ((px - LEFT) / (width - LEFT - RIGHT));
  const dbAt = (px: number) => MOST_DB - ((px - TOP) / (HEIGHT - TOP - BOTTOM)) * 2 * MOST_DB;

  const line = (hertz: number[], values: number[], height: (v: number) => number) =>
    hertz
      .map((hz, i) => `${i ? "L" : "M"}${x(hz).toFixed(1)},${height(values[i] ?? 0).toFixed(1)}`)
      .join("");
  const floor = HEIGHT - BOTTOM;
  const area = (values: number[]) =>
    sound
      ? `${line(sound.hertz, values, level)}L${x(HIGH_HZ)},${floor}L${x(LOW_HZ)},${floor}Z`
      : "";

  const moved = (index: number, band: Band, hz: number, db: number) => ({
    ...chain,
    bands: bands.map((b, i) =>
      i === index
        ? {
            ...band,
            hz: Math.round(Math.min(HIGH_HZ, Math.max(LOW_HZ, hz))),
            gain_db:
              band.kind === "notch"
                ? 0
                : Math.round(Math.min(MOST_DB, Math.max(-MOST_DB, db)) * 2) / 2,
          }
        : b,
    ),
  });
  const drag = (index: number, band: Band) => (down: React.PointerEvent<SVGElement>) => {
    const target = down.currentTarget;
    const box = target.ownerSVGElement?.getBoundingClientRect();
    if (!box) return;
    target.setPointerCapture(down.pointerId);
    let last = chain;
    const move = (event: PointerEvent) => {
      last = moved(index, band, hzAt(event.clientX - box.left), dbAt(event.clientY - box.top));
      attempt(last);
    };
    const up = () => {
      target.removeEventListener("pointermove", move);
      if (last !== chain) set(last, `Moved a band of ${name}`);
    };
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", up, { once: true });
  };
  const press = (index: number, band: Band) => (event: React.KeyboardEvent) => {
    const sideways = { ArrowLeft: 1 / STEP_HZ, ArrowRight: STEP_HZ }[event.key];
    const upwards = { ArrowUp: 0.5, ArrowDown: -0.5 }[event.key];
    if (sideways === undefined && upwards === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const hz = band.hz * (sideways ?? 1);
    set(moved(index, band, hz, (band.gain_db ?? 0) + (upwards ?? 0)), `Moved a band of ${name}`);
  };

  const text = { fontSize: 11, fill: ink.quiet, fontFamily: "Atkinson Hyperlegible" };
  return (
    <Box ref={ref} data-testid="spectrum">
      <svg width={width} height={HEIGHT}>
        <title>Curve over the spectrum of the voice</title>
        {GRID_HZ.map((hz) => (
          <g key={hz}>
            <line x1={x(hz)} x2={x(hz)} y1={TOP} y2={floor} stroke={ink.rule} />
            <text x={x(hz)} y={HEIGHT - 7} textAnchor="middle" {...text}>
              {hz < 1000 ? hz : `${hz / 1000}k`}
            </text>
          </g>
        ))}
        {[-12, -6, 0, 6, 12].map((db) => (
          <g key={db}>
            <line
              x1={LEFT}
              x2={width - RIGHT}
              y1={y(db)}
              y2={y(db)}
              stroke={ink.rule}
              strokeWidth={db ? 1 : 2}
            />
            <text x={LEFT - 6} y={y(db) + 4} textAnchor="end" {...text}>
              {`${db > 0 ? "+" : ""}${db}`.replace("-", "−")}
            </text>
          </g>
        ))}
        {[-40, -60, -80].map((db) => (
          <text key={db} x={width - RIGHT + 6} y={level(db) + 4} {...text}>
            {`${db}`.replace("-", "−")}
          </text>
        ))}
        {sound && (
          <>
            <path d={area(sound.voice_db)} fill={ink.voices[0]?.halo} fillOpacity={0.75} />
            <path d={area(sound.room_db)} fill={ink.music.halo} fillOpacity={0.85} />
          </>
        )}
        {curves && (
          <path
            d={line(
              curves.hertz,
              curves.eq_db.map((v) => Math.max(-MOST_DB, Math.min(MOST_DB, v))),
              y,
            )}
            fill="none"
            stroke={ink.apricot}
            strokeWidth={2.5}
          />
        )}
        {bands.map((band, index) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a band has no name but its place
          <g key={index}>
            <circle
              cx={x(band.hz)}
              cy={y(band.kind === "notch" ? 0 : (band.gain_db ?? 0))}
              r={9}
              tabIndex={0}
              role="slider"
              aria-label={`Band ${index + 1}`}
              aria-valuenow={Math.round(band.hz)}
              aria-valuetext={`${Math.round(band.hz)} Hz, ${band.gain_db ?? 0} dB`}
              fill={band.on ? ink.voices[0]?.body : ink.quiet}
              stroke={mode === "light" ? "#FFFEFA" : "#14191A"}
              strokeWidth={2}
              style={{ cursor: "move", touchAction: "none" }}
              onPointerDown={drag(index, band)}
              onKeyDown={press(index, band)}
            />
            <text
              x={x(band.hz)}
              y={y(band.kind === "notch" ? 0 : (band.gain_db ?? 0)) + 4}
              textAnchor="middle"
              fontSize={11}
              fontWeight={700}
              fill={mode === "light" ? "#FFFEFA" : "#14191A"}
              pointerEvents="none"
            >
              {index + 1}
            </text>
          </g>
        ))}
        <text x={LEFT - 6} y={TOP + 4} textAnchor="end" {...text}>
          dB
        </text>
        <text x={width - RIGHT + 6} y={TOP + 4} {...text}>
          dBFS
        </text>
      </svg>
      <HStack gap="4" fontSize="12px" color="quiet" mb="3">
        {[
          ["Voice", ink.voices[0]?.halo],
          ["Room", ink.music.halo],
          ["What the filters do", ink.apricot],
        ].map(([says, colour]) => (
          <HStack key={says} gap="1.5">
            <Box w="12px" h="12px" bg={colour} rounded="2px" />
            {says}
          </HStack>
        ))}
      </HStack>
    </Box>
  );
}

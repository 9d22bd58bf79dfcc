/** The compressor: its curve, and what it did to the stretch that is listened to. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, type Episode, take } from "../../api/client";
import { useCurves } from "../../api/queries";
import { palette } from "../../theme/colours";
import { useMode } from "../../theme/mode";
import { figure } from "../../time";
import type { Treatment } from "./treatment";
import { useWidth } from "./useWidth";

const SIDE = 168;
const PAD = 26;
const FLOOR = -60;
const MOST_TAKEN = 18;

interface Props {
  episode: Episode;
  track: string;
  treatment: Treatment;
}

export function Dynamics({ episode, track, treatment }: Props) {
  const { chain, span } = treatment;
  const ink = palette(useMode((m) => m.mode));
  const { data: curves } = useCurves(chain);
  const [ref, width] = useWidth(500);
  const frames = Math.max(9600, Math.min(span.end - span.start, 1_440_000));
  const { data: history } = useQuery({
    queryKey: ["reduction", episode.id, episode.revision, track, chain, span.start, frames],
    queryFn: () =>
      take(
        client.POST("/api/episodes/{episode_id}/sound/reduction", {
          params: { path: { episode_id: episode.id } },
          body: { revision: episode.revision, track, chain, start: span.start, frames },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
  });
  const text = { fontSize: 11, fill: ink.quiet, fontFamily: "Atkinson Hyperlegible" };
  const at = (db: number) => PAD + ((db - FLOOR) / -FLOOR) * (SIDE - PAD - 6);
  const up = (db: number) =>
    SIDE - PAD - ((Math.max(FLOOR, Math.min(6, db)) - FLOOR) / -FLOOR) * (SIDE - PAD - 12);
  const levels = history?.level_dbfs ?? [];
  const taken = history?.taken_db ?? [];
  const most = taken.reduce((a, b) => Math.min(a, b), 0);
  const across = (i: number) => (i / Math.max(1, levels.length - 1)) * width;
  const high = (db: number) => SIDE - ((Math.max(FLOOR, db) - FLOOR) / -FLOOR) * (SIDE - 40);
  return (
    <Flex gap="5" mt="2">
      <Box>
        <svg width={SIDE} height={SIDE} role="img" aria-label="What comes out for what goes in">
          {[-60, -40, -20, 0].map((db) => (
            <g key={db}>
              <line x1={at(db)} x2={at(db)} y1={up(0)} y2={up(FLOOR)} stroke={ink.rule} />
              <line x1={at(FLOOR)} x2={at(0)} y1={up(db)} y2={up(db)} stroke={ink.rule} />
              <text x={at(db)} y={SIDE - 10} textAnchor="middle" {...text}>
                {`${db}`.replace("-", "−")}
              </text>
            </g>
          ))}
          <line
            x1={at(FLOOR)}
            y1={up(FLOOR)}
            x2={at(0)}
            y2={up(0)}
            stroke={ink.quiet}
            strokeDasharray="3 4"
          />
          {curves && chain.compressor.on && (
            <path
              d={curves.level_db
                .map((db, i) => `${i ? "L" : "M"}${at(db)},${up(curves.static_db[i] ?? db)}`)
                .join("")}
              fill="none"
              stroke={ink.apricot}
              strokeWidth={2.5}
            />
          )}
        </svg>
      </Box>
      <Box flex="1" minW="0" ref={ref} data-testid="reduction">
        <svg width={width} height={SIDE} role="img" aria-label="What the compressor took away">
          <rect x={0} y={0} width={width} height={SIDE} fill="none" />
          {levels.length > 1 && (
            <>
              <path
                d={`M0,${SIDE}${levels.map((db, i) => `L${across(i).toFixed(1)},${high(db).toFixed(1)}`).join("")}L${width},${SIDE}Z`}
                fill={ink.voices[0]?.halo}
              />
              <line
                x1={0}
                x2={width}
                y1={high(chain.compressor.threshold_db ?? 0)}
                y2={high(chain.compressor.threshold_db ?? 0)}
                stroke={ink.quiet}
                strokeDasharray="3 4"
              />
              <path
                d={`M0,0${taken.map((db, i) => `L${across(i).toFixed(1)},${((-db / MOST_TAKEN) * (SIDE - 30)).toFixed(1)}`).join("")}L${width},0Z`}
                fill={ink.apricot}
                fillOpacity={0.8}
              />
            </>
          )}
        </svg>
        <Text fontSize="12px" color="quiet">
          {chain.compressor.on
            ? `From above: what it takes away, ${figure(-most, "dB")} at most here. From below: the voice; the dashes are the threshold.`
            : "Switch the compressor on, and what it does to this voice is drawn here."}
        </Text>
      </Box>
    </Flex>
  );
}

/** The transport: play, position, length and what was trimmed, level, zoom, running work. */
import { Box, Button, Flex, HStack, IconButton, Input, NativeSelect, Text } from "@chakra-ui/react";
import { Pause, Play, ZoomIn, ZoomOut } from "lucide-react";
import { memo, type ReactNode, useEffect, useRef, useState } from "react";
import { type Episode, underWay } from "../api/client";
import { howFar } from "../api/left";
import { cancelJob, useJobs } from "../api/queries";
import {
  levelNow,
  place,
  SPEEDS,
  setPlayCuts,
  setSpeed,
  toggle,
  usePlayer,
} from "../playback/player";
import { usePlayhead } from "../playback/playhead";
import { Meaning } from "../theme/Meaning";
import { ProgressBar } from "../theme/ProgressBar";
import { Toggle } from "../theme/Toggle";
import { complain } from "../theme/toaster";
import { clock, parseClock } from "../time";
import { LINE_SECONDS, useView } from "../view/view";

export const Transport = memo(function Transport({
  episode,
  zoomable,
}: {
  episode: Episode;
  zoomable: boolean;
}) {
  const playing = usePlayer((p) => p.playing);
  const held = usePlayer((p) => p.held);
  const empty = episode.frames === 0;
  return (
    <Foot>
      <IconButton
        aria-label={playing ? "Pause" : "Play"}
        title={held ? "Other tracks play along" : `${playing ? "Pause" : "Play"} (Space)`}
        colorPalette="pine"
        rounded="full"
        size="lg"
        disabled={empty || held}
        onClick={toggle}
      >
        {playing ? <Pause fill="currentColor" /> : <Play fill="currentColor" />}
      </IconButton>
      <Position />
      <Text color="quiet" whiteSpace="nowrap">
        of {clock(episode.frames)}
        {episode.trimmed > 0 && ` · ${clock(episode.trimmed)} trimmed`}
      </Text>
      <Box flex="1" />
      <Jobs episode={episode} />
      <Speed />
      {zoomable && <Shown cuts={episode.cuts} />}
      {zoomable && <Zoom />}
      <Level />
    </Foot>
  );
});

/** Its place, until the Page stands. */
export const TransportSpace = () => <Foot />;

function Foot({ children }: { children?: ReactNode }) {
  return (
    <Flex
      as="footer"
      h="64px"
      flexShrink="0"
      align="center"
      gap="4"
      px="5"
      bg="raised"
      borderTopWidth="1px"
      borderColor="rule"
    >
      {children}
    </Flex>
  );
}

function Position() {
  const at = usePlayer((p) => p.at);
  const [typed, setTyped] = useState<string | null>(null);
  const field = useRef<HTMLInputElement>(null);
  usePlayhead((now) => {
    if (field.current && typed === null) field.current.value = clock(now);
  });
  const settle = () => {
    const frame = typed === null ? null : parseClock(typed);
    if (frame !== null) place(frame);
    setTyped(null);
  };
  return (
    <Input
      ref={field}
      aria-label="Position"
      title="Where the playhead is. Type a time to go there."
      data-at={at}
      defaultValue={clock(at)}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === "Enter") {
          settle();
          event.currentTarget.blur();
        }
      }}
      w="96px"
      px="2"
      fontSize="20px"
      fontWeight="700"
      variant="flushed"
      borderColor="transparent"
    />
  );
}

/** How fast it is played; the pitch stays. */
function Speed() {
  const speed = usePlayer((p) => p.speed);
  return (
    <NativeSelect.Root size="xs" w="72px" title="Speed of playing; the pitch stays ([ and ])">
      <NativeSelect.Field
        aria-label="Speed"
        value={speed}
        onChange={(event) => {
          setSpeed(Number(event.target.value));
          event.currentTarget.blur();
        }}
      >
        {SPEEDS.map((s) => (
          <option key={s} value={s}>
            {s} ×
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

/** Whether what was cut is written in its place, and whether it is played. */
function Shown({ cuts }: { cuts: number }) {
  const showCuts = useView((v) => v.showCuts);
  const playCuts = usePlayer((p) => p.playCuts);
  if (!cuts) return null;
  return (
    <HStack gap="1">
      <Toggle
        size="xs"
        on={showCuts}
        title="Write what was cut in its place, struck through (X)"
        onClick={() => useView.setState({ showCuts: !showCuts })}
      >
        Show cuts
      </Toggle>
      <Toggle
        size="xs"
        on={playCuts}
        title="Play what was cut in its place (P)"
        onClick={() => setPlayCuts(!playCuts)}
      >
        Play cuts
      </Toggle>
    </HStack>
  );
}

function Zoom() {
  const lineSeconds = useView((v) => v.lineSeconds);
  const zoom = useView((v) => v.zoom);
  return (
    <HStack gap="1">
      <IconButton
        aria-label="Shorter lines"
        title="Shorter lines, more detail (+)"
        size="sm"
        variant="ghost"
        disabled={lineSeconds === LINE_SECONDS[0]}
        onClick={() => zoom(true)}
      >
        <ZoomIn size={18} />
      </IconButton>
      <Text fontSize="13px" color="quiet" w="66px" textAlign="center" whiteSpace="nowrap">
        {lineSeconds} s a line
      </Text>
      <IconButton
        aria-label="Longer lines"
        title="Longer lines, more at a glance (−)"
        size="sm"
        variant="ghost"
        disabled={lineSeconds === LINE_SECONDS.at(-1)}
        onClick={() => zoom(false)}
      >
        <ZoomOut size={18} />
      </IconButton>
    </HStack>
  );
}

const FLOOR_DB = -48;

function Level() {
  const playing = usePlayer((p) => p.playing);
  const bar = useRef<HTMLDivElement>(null);
  const text = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let request = 0;
    let held = FLOOR_DB;
    const show = () => {
      const db = 20 * Math.log10(Math.max(levelNow(), 1e-4));
      held = Math.max(db, held - 0.7, FLOOR_DB);
      if (bar.current) bar.current.style.width = `${(1 - held / FLOOR_DB) * 100}%`;
      if (text.current) {
        text.current.textContent =
          playing && held > FLOOR_DB ? held.toFixed(0).replace("-", "−") : "–";
      }
      if (playing) request = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(request);
  }, [playing]);
  return (
    <HStack gap="2" title="Peak level of what is playing">
      <Box w="110px" h="8px" bg="wash" borderRadius="2px" overflow="hidden">
        <Box ref={bar} h="100%" w="0" bg="pine.solid" />
      </Box>
      <Text fontSize="13px" color="quiet" w="64px" textAlign="right">
        <span ref={text}>–</span> <Meaning of="dBFS" />
      </Text>
    </HStack>
  );
}

function Jobs({ episode }: { episode: Episode }) {
  const { data } = useJobs(episode.id);
  const running = data?.filter(underWay) ?? [];
  // What runs stands before what waits for it.
  const job = running.find((one) => one.state === "running") ?? running[0];
  if (!job) return null;
  const name = typeof job.params.name === "string" ? ` “${job.params.name}”` : "";
  return (
    <HStack gap="3" maxW="360px" minW="0" data-testid="job">
      <Box minW="0">
        <Text fontSize="12px" color="quiet" truncate>
          {job.title}
          {name} · {howFar(job, data)}
          {running.length > 1 && ` · ${running.length - 1} more`}
        </Text>
        <ProgressBar value={job.progress} w="190px" />
      </Box>
      <Button size="xs" variant="outline" onClick={() => void cancelJob(job.id).catch(complain)}>
        Cancel
      </Button>
    </HStack>
  );
}

/** Loudness: sections before and after, the curve against the target, and evening out. */

import { Box, Button, Flex, Input, NativeSelect, Table, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { Context } from "../../actions/action";
import { client, type Episode, type Levels, RATE, type Schemas, take } from "../../api/client";
import {
  startRide,
  useEdit,
  useEvenOut,
  useFindSections,
  useJobs,
  useLevels,
} from "../../api/queries";
import { position } from "../../playback/player";
import { Dial } from "../../theme/Dial";
import { complain } from "../../theme/toaster";
import { clock, figure, parseClock } from "../../time";
import { Card, Heading, Panel } from "../Panel";
import { Curve } from "./Curve";

export function LoudnessStage({ context: { episode } }: { context: Context }) {
  const { data: levels } = useLevels(episode.id, episode.revision);
  const { data: jobs } = useJobs(episode.id);
  const current = levels?.revision === episode.revision;
  const missing = current && !levels.measured && episode.frames > 0;
  const measuring = jobs?.some(
    (j) => j.kind === "measure" && (j.state === "running" || j.state === "queued"),
  );

  // What is shown here has to be measured first: it starts by itself, once for each revision.
  useEffect(() => {
    if (!missing) return;
    void take(
      client.POST("/api/episodes/{episode_id}/measure", {
        params: { path: { episode_id: episode.id } },
        body: { revision: episode.revision },
      }),
    ).catch(complain);
  }, [missing, episode.id, episode.revision]);

  if (episode.frames === 0) {
    return (
      <Flex flex="1" align="center" justify="center">
        <Text color="quiet">
          Add a recording on the Edit stage first; then its loudness is shown here.
        </Text>
      </Flex>
    );
  }
  return (
    <Flex flex="1" minH="0">
      <Box flex="1" minW="0" overflowY="auto" px="6" py="4">
        <Heading>Loudness over time</Heading>
        <Text fontSize="13px" color="quiet" mb="2">
          Three seconds at a time, before and after, and the loudest moment of each second.
          Triangles: peaks that the limiter holds. Click to go there.
        </Text>
        {levels?.measured && <Now levels={levels} />}
        {levels?.measured ? (
          <Curve levels={levels} episode={episode} />
        ) : (
          <Flex h="230px" align="center" justify="center" bg="wash" borderRadius="8px">
            <Text color="quiet">{measuring ? "Measuring…" : "Not measured yet"}</Text>
          </Flex>
        )}
        <Sections episode={episode} levels={levels?.measured ? levels : undefined} />
        {levels?.measured && <Speakers episode={episode} levels={levels} />}
      </Box>
      <Panel>
        <Settings episode={episode} levels={levels} ready={Boolean(current && levels.measured)} />
      </Panel>
    </Flex>
  );
}

/** How loud it is where the playhead is, as it was measured. */
function Now({ levels }: { levels: Levels }) {
  const out = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let request = 0;
    const show = () => {
      const second = Math.max(0, Math.round(position() / RATE - 1.5));
      if (out.current) out.current.textContent = figure(levels.curve_after[second], "LUFS");
      request = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(request);
  }, [levels]);
  return (
    <Text fontSize="13px" mb="1">
      At the playhead <b ref={out} data-testid="now" />
    </Text>
  );
}

function Speakers({ episode, levels }: { episode: Episode; levels: Levels }) {
  if (!levels.speakers.length) return null;
  const name = (id: string) => episode.tracks.find((t) => t.id === id)?.name ?? "";
  return (
    <Box mt="5">
      <Heading>Voices</Heading>
      <Table.Root size="sm" mt="2" data-testid="speakers">
        <Table.Header>
          <Table.Row bg="transparent">
            {["Name", "Before", "After", "Phrases apart"].map((title, i) => (
              <Table.ColumnHeader key={title} py="1" color="quiet" textAlign={i ? "right" : "left"}>
                {title}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {levels.speakers.map((one) => (
            <Table.Row key={one.track} bg="transparent">
              <Table.Cell py="1">{name(one.track)}</Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {figure(one.before, "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right" fontWeight="700">
                {figure(one.after, "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {figure(one.spread_lu, "LU")}
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

function Sections({ episode, levels }: { episode: Episode; levels: Levels | undefined }) {
  const edit = useEdit(episode.id);
  const find = useFindSections(episode.id);
  const starts = episode.sections.map((s) => ({ id: s.id, at: s.at, name: s.name }));
  const set = (sections: typeof starts) => edit.mutate({ kind: "set_sections", sections });
  return (
    <Box mt="5">
      <Flex align="center">
        <Box flex="1">
          <Heading>Sections</Heading>
        </Box>
        <Button
          size="xs"
          variant="outline"
          title="By who speaks, from which recording, by music and noted places"
          loading={find.isPending}
          onClick={() => find.mutate(undefined)}
        >
          Find sections
        </Button>
      </Flex>
      <Table.Root size="sm" mt="2" data-testid="sections">
        <Table.Header>
          <Table.Row bg="transparent">
            <Table.ColumnHeader py="1" color="quiet">
              Name
            </Table.ColumnHeader>
            <Table.ColumnHeader py="1" color="quiet" w="104px">
              Starts
            </Table.ColumnHeader>
            <Table.ColumnHeader py="1" color="quiet" textAlign="right">
              Before
            </Table.ColumnHeader>
            <Table.ColumnHeader py="1" color="quiet" textAlign="right">
              Gain
            </Table.ColumnHeader>
            <Table.ColumnHeader py="1" color="quiet" textAlign="right">
              After
            </Table.ColumnHeader>
            <Table.ColumnHeader py="1" color="quiet" w="90px" />
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {episode.sections.map((section, i) => (
            <Table.Row key={section.id} bg="transparent">
              <Table.Cell py="1">
                <Typed
                  label={`Name of section ${i + 1}`}
                  value={section.name}
                  onSet={(name) => set(starts.map((s, k) => (k === i ? { ...s, name } : s)))}
                />
              </Table.Cell>
              <Table.Cell py="1">
                {i === 0 ? (
                  <Text>{clock(0)}</Text>
                ) : (
                  <Typed
                    label={`Start of section ${i + 1}`}
                    value={clock(section.at)}
                    onSet={(text) => {
                      const at = parseClock(text);
                      if (at === null)
                        complain(new Error(`“${text}” is not a time. Write it like 1:15.5.`));
                      else set(starts.map((s, k) => (k === i ? { ...s, at } : s)));
                    }}
                  />
                )}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {figure(levels?.sections_before[i], "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {signed(section.gain_db + episode.loudness.gain_db)}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right" fontWeight="700">
                {figure(levels?.sections_after[i], "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {i > 0 && (
                  <Button
                    size="xs"
                    variant="ghost"
                    color="quiet"
                    title="Merge this section with the one before"
                    onClick={() => set(starts.filter((_, k) => k !== i))}
                  >
                    Merge with previous
                  </Button>
                )}
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      <Text fontSize="13px" color="quiet" mt="2">
        Start a section on the Edit stage, where one voice, room or day gives way to another.
      </Text>
    </Box>
  );
}

const signed = (db: number) => `${db > 0 ? "+" : ""}${figure(db, "dB")}`;

/** A value edited in place: typed, then set with Enter or by leaving. */
function Typed({
  label,
  value,
  onSet,
}: {
  label: string;
  value: string;
  onSet: (v: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const settle = () => {
    if (text?.trim() && text.trim() !== value) onSet(text.trim());
    setText(null);
  };
  return (
    <Input
      size="xs"
      fontSize="14px"
      px="2"
      ml="-2"
      aria-label={label}
      variant="outline"
      borderColor="transparent"
      _hover={{ borderColor: "rule" }}
      value={text ?? value}
      maxLength={120}
      onChange={(event) => setText(event.target.value)}
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setText(null);
      }}
    />
  );
}

/** Targets that are usual (common practice; broadcast: EBU R 128). */
const PRACTICES: { id: string; says: string; layout: "mono" | "stereo" | null; lufs: number }[] = [
  { id: "mono", says: "Spoken, mono: −19 LUFS", layout: "mono", lufs: -19 },
  { id: "stereo", says: "Spoken, stereo: −16 LUFS", layout: "stereo", lufs: -16 },
  { id: "broadcast", says: "Broadcast: −23 LUFS", layout: null, lufs: -23 },
];

/** Phrases brought nearer to each other, and music held under the talk. */
function Riding({ episode }: { episode: Episode }) {
  const { data: jobs } = useJobs(episode.id);
  const [share, setShare] = useState(80);
  const [most, setMost] = useState(8);
  const [rate, setRate] = useState(10);
  const [under, setUnder] = useState(-18);
  const [alone, setAlone] = useState(-4);
  const busy = jobs?.some(
    (j) => j.kind === "ride" && (j.state === "running" || j.state === "queued"),
  );
  const start = (what: Pick<Schemas["RideRequest"], "riding" | "bed">) =>
    void startRide(episode.id, { revision: episode.revision, ...what }).catch(complain);
  const music = episode.tracks.some((t) => t.kind === "music" && t.frames > 0);
  const dial = (value: number, put: (v: number) => void) => ({ value, onTry: put, onSet: put });
  return (
    <>
      <Heading>Between phrases</Heading>
      <Card>
        <Dial says="How much" unit="%" low={10} high={100} step={5} {...dial(share, setShare)} />
        <Dial
          says="At most"
          unit="dB"
          low={1}
          high={12}
          step={0.5}
          digits={1}
          {...dial(most, setMost)}
        />
        <Dial
          says="No faster than"
          unit="dB/s"
          low={2}
          high={20}
          step={1}
          {...dial(rate, setRate)}
        />
        <Button
          mt="2"
          w="100%"
          size="sm"
          variant="outline"
          loading={Boolean(busy)}
          onClick={() => start({ riding: { share: share / 100, most_db: most, rate_db_s: rate } })}
        >
          Even out phrases
        </Button>
        <Text mt="2" fontSize="12px" color="quiet">
          Writes gain points on each voice, on top of those that are there. See and change them on
          the Edit stage. Pauses are never raised by more than 3 dB.
        </Text>
      </Card>
      {music && (
        <>
          <Heading>Music under the talk</Heading>
          <Card>
            <Dial
              says="Under a voice"
              unit="LU"
              low={-40}
              high={0}
              step={1}
              {...dial(under, setUnder)}
            />
            <Dial
              says="By itself"
              unit="LU"
              low={-30}
              high={6}
              step={1}
              {...dial(alone, setAlone)}
            />
            <Button
              mt="2"
              w="100%"
              size="sm"
              variant="outline"
              loading={Boolean(busy)}
              onClick={() => start({ bed: { under_lu: under, alone_lu: alone } })}
            >
              Hold it under the talk
            </Button>
            <Text mt="2" fontSize="12px" color="quiet">
              Against the voices’ loudness. Sets all gain points of the music.
            </Text>
          </Card>
        </>
      )}
    </>
  );
}

interface SettingsProps {
  episode: Episode;
  levels: Levels | undefined;
  ready: boolean;
}

function Settings({ episode, levels, ready }: SettingsProps) {
  const edit = useEdit(episode.id);
  const evenOut = useEvenOut(episode.id);
  const { layout, target, target_lufs, usual_target, ceiling_dbtp } = episode.loudness;
  const set = (
    change: Partial<{
      layout: "mono" | "stereo";
      target_lufs: number | null;
      ceiling_dbtp: number;
    }>,
  ) => edit.mutate({ kind: "set_loudness", layout, target_lufs, ceiling_dbtp, ...change });
  const own = target_lufs ?? null;
  const practice =
    PRACTICES.find((one) => (one.layout ?? layout) === layout && (own ?? usual_target) === one.lufs)
      ?.id ?? "own";
  return (
    <>
      <Heading>Even out</Heading>
      <Card data-testid="evenness">
        {levels?.measured ? (
          <>
            <Text data-testid="verdict">{levels.verdict}</Text>
            <Text mt="1" fontSize="13px" color="quiet">
              Now {figure(levels.after, "LUFS")}, target {figure(target, "LUFS")}.
            </Text>
            {levels.most_limiting_db > 0.1 && levels.most_limiting_db <= 6 && (
              <Text mt="1" fontSize="13px" color="quiet">
                The limiter lowers its highest peaks by up to {levels.most_limiting_db.toFixed(1)}{" "}
                dB.
              </Text>
            )}
          </>
        ) : (
          <Text color="quiet">It is being measured.</Text>
        )}
        <Button
          mt="3"
          w="100%"
          size="sm"
          colorPalette="pine"
          disabled={!ready}
          loading={evenOut.isPending}
          onClick={() => evenOut.mutate(undefined)}
        >
          Even out all sections
        </Button>
        <Text mt="2" fontSize="12px" color="quiet">
          Each section by one gain, at most ±20 dB, changing between words only. The sound of the
          voice stays as it is.
        </Text>
      </Card>
      <Riding episode={episode} />
      <Heading>Where it should end up</Heading>
      <Card>
        <Label>Usual practice</Label>
        <NativeSelect.Root size="sm">
          <NativeSelect.Field
            aria-label="Usual practice"
            value={practice}
            onChange={(event) => {
              const one = PRACTICES.find((p) => p.id === event.target.value);
              if (one) set({ layout: one.layout ?? layout, target_lufs: one.lufs });
            }}
          >
            {PRACTICES.map((one) => (
              <option key={one.id} value={one.id}>
                {one.says}
              </option>
            ))}
            <option value="own" disabled>
              Your own values
            </option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Label>Channels</Label>
        <NativeSelect.Root size="sm">
          <NativeSelect.Field
            aria-label="Channels"
            value={layout}
            onChange={(event) => set({ layout: event.target.value as "mono" | "stereo" })}
          >
            <option value="mono">Mono: a talk</option>
            <option value="stereo">Stereo: with music</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Label>Target in LUFS</Label>
        <NumberField
          label="Target in LUFS"
          value={target}
          low={-36}
          high={-8}
          onSet={(value) => set({ target_lufs: value })}
        />
        <Text fontSize="12px" color="quiet" mt="1">
          {target_lufs === null || target_lufs === undefined
            ? `Usual for ${layout} speech.`
            : `Usual for ${layout} speech is ${figure(usual_target, "LUFS", 0)}.`}
        </Text>
        <Label>Highest true peak in dBTP</Label>
        <NumberField
          label="Highest true peak in dBTP"
          value={ceiling_dbtp}
          low={-9}
          high={-0.1}
          onSet={(value) => set({ ceiling_dbtp: value })}
        />
      </Card>
    </>
  );
}

function Label({ children }: { children: string }) {
  return (
    <Text fontSize="13px" mt="3" mb="1" _first={{ mt: "0" }}>
      {children}
    </Text>
  );
}

interface NumberProps {
  label: string;
  value: number;
  low: number;
  high: number;
  onSet: (value: number) => void;
}

function NumberField({ label, value, low, high, onSet }: NumberProps) {
  const [text, setText] = useState<string | null>(null);
  const settle = () => {
    const number = Number(text?.replace("−", "-").replace(",", "."));
    if (text !== null && text.trim() !== "" && number !== value) {
      if (number >= low && number <= high) onSet(number);
      else
        complain(new Error(`${label}: between ${low} and ${high}, please.`.replaceAll("-", "−")));
    }
    setText(null);
  };
  return (
    <Input
      size="sm"
      aria-label={label}
      value={text ?? String(value).replace("-", "−")}
      onChange={(event) => setText(event.target.value)}
      onBlur={settle}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}

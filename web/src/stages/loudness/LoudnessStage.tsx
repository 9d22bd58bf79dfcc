/** Loudness: sections before and after, the curve against the target, and evening out. */
import { Box, Button, Flex, Input, NativeSelect, Table, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { client, type Episode, type Levels, take } from "../../api/client";
import { useEdit, useEvenOut, useJobs, useLevels } from "../../api/queries";
import { complain } from "../../theme/toaster";
import { clock, figure, parseClock } from "../../time";
import { Card, Heading, Panel } from "../Panel";
import { Curve } from "./Curve";

export function LoudnessStage({ episode }: { episode: Episode }) {
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
        <Heading>Short-term loudness</Heading>
        <Text fontSize="13px" color="quiet" mb="2">
          How loud three seconds at a time are, before and after. A listener notices steps of more
          than a few LU.
        </Text>
        {levels?.measured ? (
          <Curve levels={levels} episode={episode} />
        ) : (
          <Flex h="230px" align="center" justify="center" bg="wash" borderRadius="8px">
            <Text color="quiet">{measuring ? "Measuring…" : "Not measured yet"}</Text>
          </Flex>
        )}
        <Sections episode={episode} levels={levels?.measured ? levels : undefined} />
      </Box>
      <Panel>
        <Settings episode={episode} levels={levels} ready={Boolean(current && levels.measured)} />
      </Panel>
    </Flex>
  );
}

function Sections({ episode, levels }: { episode: Episode; levels: Levels | undefined }) {
  const edit = useEdit(episode.id);
  const starts = episode.sections.map((s) => ({ at: s.at, name: s.name }));
  const set = (sections: typeof starts) => edit.mutate({ kind: "set_sections", sections });
  return (
    <Box mt="5">
      <Heading>Sections</Heading>
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
                    title="Join it to the section before"
                    onClick={() => set(starts.filter((_, k) => k !== i))}
                  >
                    Join up
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
  const after = (levels?.sections_after ?? []).filter((v): v is number => v !== null);
  const apart = after.length > 1 ? Math.max(...after) - Math.min(...after) : 0;
  return (
    <>
      <Heading>Even out</Heading>
      <Card data-testid="evenness">
        {levels?.measured ? (
          <>
            <Text>
              Now at <b>{figure(levels.after, "LUFS")}</b>, target {figure(target, "LUFS")}.
            </Text>
            <Text mt="1" color={apart > 1.05 ? "trouble" : "quiet"}>
              {after.length > 1 &&
                (apart > 1.05
                  ? `Its sections are ${apart.toFixed(1)} LU apart.`
                  : `Its sections are within ${Math.max(0.1, apart).toFixed(1)} LU of each other.`)}
            </Text>
            {levels.most_limiting_db > 0.1 && (
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
      <Heading>Where it should end up</Heading>
      <Card>
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

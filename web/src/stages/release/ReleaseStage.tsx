/** Release: tags, artwork, format, and a file that is read back before it is handed over. */

import {
  Box,
  Button,
  Checkbox,
  Field,
  Flex,
  Input,
  NativeSelect,
  SimpleGrid,
  Text,
  Textarea,
} from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { Context } from "../../actions/action";
import { client, type Episode, type Job, RATE, type Tags, take, takeBytes } from "../../api/client";
import { useEdit, useJobs } from "../../api/queries";
import { complain } from "../../theme/toaster";
import { clock, figure, megabytes } from "../../time";
import { Card, Heading, Panel } from "../Panel";

const FIELDS: {
  name: keyof Tags;
  label: string;
  wide?: boolean;
  hint?: string;
  number?: boolean;
}[] = [
  { name: "title", label: "Title", wide: true },
  { name: "show", label: "Show" },
  { name: "artist", label: "Artist", hint: "Who speaks" },
  { name: "album_artist", label: "Album artist", hint: "Who publishes" },
  { name: "genre", label: "Genre" },
  { name: "season", label: "Season", number: true },
  { name: "episode", label: "Episode number", number: true },
  { name: "year", label: "Year", number: true },
  { name: "language", label: "Language", hint: "Three letters, like eng" },
  { name: "copyright", label: "Copyright" },
  { name: "link", label: "Link", hint: "https://…" },
];

export function ReleaseStage({ context: { episode } }: { context: Context }) {
  return (
    <Flex flex="1" minH="0">
      <Box flex="1" minW="0" overflowY="auto" px="6" py="4">
        <TagForm episode={episode} />
      </Box>
      <Panel>
        <Export episode={episode} />
        <Transcripts episode={episode} />
      </Panel>
    </Flex>
  );
}

const FORMS = { vtt: "WebVTT", srt: "SRT", json: "JSON", txt: "Plain text" } as const;

/** What is said in the episode, as a file that players and people can read. */
function Transcripts({ episode }: { episode: Episode }) {
  return (
    <Box mt="5" data-testid="transcripts">
      <Heading>Transcript</Heading>
      <Card>
        <Text fontSize="13px" color="quiet" mb="2">
          Timed to the episode as it is now, with the names of those who speak.
        </Text>
        <Flex gap="1.5" wrap="wrap">
          {Object.entries(FORMS).map(([form, says]) => (
            <Button key={form} asChild size="xs" variant="outline">
              <a
                href={`/api/episodes/${episode.id}/transcript?revision=${episode.revision}&format=${form}`}
                download
              >
                {says}
              </a>
            </Button>
          ))}
        </Flex>
      </Card>
    </Box>
  );
}

/** The new tags, with what differs from those of before left as it is typed. */
function merged(typed: Tags, before: Tags, now: Tags): Tags {
  const own = Object.entries(typed).filter(([name, value]) => value !== before[name as keyof Tags]);
  return { ...now, ...Object.fromEntries(own) };
}

function TagForm({ episode }: { episode: Episode }) {
  const edit = useEdit(episode.id);
  const [tags, setTags] = useState<Tags>(episode.tags);
  const latest = useRef(tags);
  latest.current = tags;
  // What changed elsewhere (an undo, another window) comes in; what is being typed here stays.
  const kept = useRef(episode.tags);
  useEffect(() => {
    const before = kept.current;
    kept.current = episode.tags;
    setTags((old) => merged(old, before, episode.tags));
  }, [episode.tags]);
  const save = (artwork = episode.artwork) => {
    const same = JSON.stringify(latest.current) === JSON.stringify(episode.tags);
    if (same && artwork === episode.artwork) return;
    edit.mutate({ kind: "set_tags", tags: latest.current, artwork });
  };
  const put = (name: keyof Tags, text: string, number?: boolean) => {
    const value = number ? (/^\d+$/.test(text) ? Number(text) : null) : text;
    setTags((old) => ({ ...old, [name]: value }));
  };
  return (
    <Box maxW="820px">
      <Heading>Tags</Heading>
      <Text fontSize="13px" color="quiet" mb="4">
        Podcast apps show these. They are kept as you leave each field.
      </Text>
      <Flex gap="6" align="flex-start">
        <Artwork episode={episode} onSet={save} />
        <SimpleGrid columns={2} gapX="4" gapY="3" flex="1">
          {FIELDS.map((field) => (
            <Field.Root key={field.name} gridColumn={field.wide ? "span 2" : undefined}>
              <Field.Label fontSize="13px">{field.label}</Field.Label>
              <Input
                size="sm"
                bg="raised"
                value={String(tags[field.name] ?? "")}
                placeholder={field.hint ?? (field.name === "title" ? episode.title : undefined)}
                inputMode={field.number ? "numeric" : undefined}
                onChange={(event) => put(field.name, event.target.value, field.number)}
                onBlur={() => save()}
              />
            </Field.Root>
          ))}
          <Field.Root gridColumn="span 2">
            <Field.Label fontSize="13px">Description</Field.Label>
            <Textarea
              rows={3}
              bg="raised"
              value={tags.description ?? ""}
              onChange={(event) => put("description", event.target.value)}
              onBlur={() => save()}
            />
          </Field.Root>
        </SimpleGrid>
      </Flex>
    </Box>
  );
}

function Artwork({
  episode,
  onSet,
}: {
  episode: Episode;
  onSet: (artwork: string | null) => void;
}) {
  const field = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const bring = async (file: File) => {
    setBusy(true);
    try {
      onSet((await takeBytes<{ artwork: string }>("POST", "/api/artwork", file)).artwork);
    } catch (error) {
      complain(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Box w="200px" flexShrink="0">
      <Text fontSize="13px" fontWeight="500" mb="1.5">
        Artwork
      </Text>
      <Flex
        w="200px"
        h="200px"
        align="center"
        justify="center"
        bg="wash"
        borderRadius="8px"
        overflow="hidden"
        borderWidth="1px"
        borderColor="rule"
      >
        {episode.artwork ? (
          <img
            src={`/api/artwork/${episode.artwork}`}
            alt="Cover of this episode"
            width={200}
            height={200}
          />
        ) : (
          <Text color="quiet" fontSize="13px" textAlign="center" px="4">
            Square, JPEG or PNG, 1400 to 3000 pixels
          </Text>
        )}
      </Flex>
      <Flex gap="2" mt="2">
        <Button size="xs" variant="outline" loading={busy} onClick={() => field.current?.click()}>
          {episode.artwork ? "Change it" : "Choose a picture"}
        </Button>
        {episode.artwork && (
          <Button size="xs" variant="ghost" color="quiet" onClick={() => onSet(null)}>
            Remove
          </Button>
        )}
      </Flex>
      <input
        ref={field}
        type="file"
        hidden
        accept="image/jpeg,image/png"
        data-testid="artwork-file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void bring(file);
          event.target.value = "";
        }}
      />
    </Box>
  );
}

function Export({ episode }: { episode: Episode }) {
  const [wanted, setWanted] = useState<string | null>(null);
  const [version, setVersion] = useState<"2.3" | "2.4">("2.3");
  const { data: jobs } = useJobs(episode.id);
  const exports = (jobs ?? []).filter((job) => job.kind === "export");
  const running = exports.find((job) => job.state === "running" || job.state === "queued");
  const { data: formats } = useQuery({
    queryKey: ["formats", episode.id, episode.revision],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/formats", {
          params: { path: { episode_id: episode.id } },
        }),
      ),
  });
  const [despite, setDespite] = useState(false);
  const damaged = episode.takes.some((one) => one.damaged);
  const chosen = formats?.find((one) => one.label === wanted) ?? formats?.find((one) => one.usual);
  const start = () =>
    chosen &&
    take(
      client.POST("/api/episodes/{episode_id}/exports", {
        params: { path: { episode_id: episode.id } },
        body: {
          revision: episode.revision,
          settings: { format: chosen.format, kbits: chosen.kbits, id3_version: version },
          despite_damage: despite && damaged,
        },
      }),
    ).catch(complain);
  return (
    <>
      <Heading>The file</Heading>
      <Card>
        <Select
          label="Format"
          value={chosen?.label ?? ""}
          onSet={setWanted}
          options={(formats ?? []).map(({ label, usual }): [string, string] => [
            label,
            usual ? `${label} (usual)` : label,
          ])}
        />
        <Select
          label="Tag version"
          value={version}
          onSet={(value) => setVersion(value === "2.4" ? "2.4" : "2.3")}
          options={[
            ["2.3", "ID3v2.3, read everywhere"],
            ["2.4", "ID3v2.4, current"],
          ]}
        />
        <Text mt="3" fontSize="13px" color="quiet">
          {episode.loudness.layout === "mono" ? "Mono" : "Stereo"} · {clock(episode.frames)} · about{" "}
          {chosen ? megabytes(chosen.bytes) : "…"}
        </Text>
        <Text fontSize="13px" color="quiet">
          Goes to {figure(episode.loudness.target, "LUFS")}, at most{" "}
          {figure(episode.loudness.ceiling_dbtp, "dBTP")}
        </Text>
        {damaged && (
          <Checkbox.Root
            mt="3"
            size="sm"
            checked={despite}
            onCheckedChange={({ checked }) => setDespite(checked === true)}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control />
            <Checkbox.Label fontSize="13px" color="trouble">
              A recording is damaged. Export all the same, silent where it cannot be read
            </Checkbox.Label>
          </Checkbox.Root>
        )}
        <Button
          mt="3"
          w="100%"
          size="sm"
          colorPalette="pine"
          disabled={episode.frames === 0 || !chosen || Boolean(running)}
          onClick={start}
        >
          Export
        </Button>
      </Card>
      {exports.length > 0 && <Heading>Exports</Heading>}
      {[...exports].reverse().map((job) => (
        <Exported key={job.id} job={job} episode={episode} />
      ))}
    </>
  );
}

interface Report {
  bytes: number;
  measured: { duration_s: number; integrated_lufs: number | null; true_peak_dbtp: number | null };
  tags: Record<string, string>;
  warnings: string[];
}

function Exported({ job, episode }: { job: Job; episode: Episode }) {
  const params = job.params as { file_name: string; revision: number };
  const report = job.state === "done" ? (job.result as unknown as Report) : null;
  const retry = () =>
    take(client.POST("/api/jobs/{job_id}/again", { params: { path: { job_id: job.id } } })).catch(
      complain,
    );
  const cancel = () =>
    take(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: job.id } } })).catch(
      complain,
    );
  const busy = job.state === "running" || job.state === "queued";
  return (
    <Card data-testid="export">
      <Text fontWeight="700" truncate title={params.file_name}>
        {params.file_name}
      </Text>
      {busy && (
        <>
          <ProgressLine value={job.progress} />
          <Flex justify="space-between" align="center">
            <Text fontSize="13px" color="quiet">
              {job.doing} · {Math.round(job.progress * 100)} %
            </Text>
            <Button size="xs" variant="outline" onClick={cancel}>
              Cancel
            </Button>
          </Flex>
        </>
      )}
      {report && (
        <>
          <Text mt="1" data-testid="report">
            Reads {figure(report.measured.integrated_lufs, "LUFS")},{" "}
            {figure(report.measured.true_peak_dbtp, "dBTP")},{" "}
            {clock(report.measured.duration_s * RATE)}, {Object.keys(report.tags).length} tags
          </Text>
          {report.warnings.map((warning) => (
            <Text key={warning} fontSize="13px" color="trouble">
              {warning}
            </Text>
          ))}
          {params.revision !== episode.revision && (
            <Text fontSize="12px" color="quiet">
              The episode has changed since.
            </Text>
          )}
          <Button asChild size="xs" mt="2" colorPalette="pine" variant="surface">
            <a href={`/api/exports/${job.id}/file`} download={params.file_name}>
              Download · {megabytes(report.bytes)}
            </a>
          </Button>
        </>
      )}
      {!busy && !report && (
        <>
          <Text fontSize="13px" color="trouble" mt="1">
            {job.error ?? "Cancelled."}
          </Text>
          <Button size="xs" mt="2" variant="outline" onClick={retry}>
            Export again
          </Button>
        </>
      )}
    </Card>
  );
}

function ProgressLine({ value }: { value: number }) {
  return (
    <Box h="6px" bg="wash" borderRadius="3px" overflow="hidden" my="2">
      <Box h="100%" bg="pine.solid" w={`${value * 100}%`} transition="width 0.3s" />
    </Box>
  );
}

interface SelectProps {
  label: string;
  value: string;
  options: [string, string][];
  onSet: (value: string) => void;
}

function Select({ label, value, options, onSet }: SelectProps) {
  return (
    <Box mt="3" _first={{ mt: "0" }}>
      <Text fontSize="13px" mb="1">
        {label}
      </Text>
      <NativeSelect.Root size="sm">
        <NativeSelect.Field
          aria-label={label}
          value={value}
          onChange={(event) => onSet(event.target.value)}
        >
          {options.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Box>
  );
}

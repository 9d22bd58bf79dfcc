/** The file: its format, and what has been exported. */
import { Button, Checkbox, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Episode, take } from "../../api/client";
import { useJobs } from "../../api/queries";
import { LabelledPick } from "../../theme/Pick";
import { complain } from "../../theme/toaster";
import { clock, figure, megabytes } from "../../time";
import { Card, Heading } from "../Panel";
import { Exported } from "./Exported";

type TagVersion = "2.3" | "2.4";

const TAG_VERSIONS: [TagVersion, string][] = [
  ["2.3", "ID3v2.3, read everywhere"],
  ["2.4", "ID3v2.4, current"],
];

export function Export({ episode }: { episode: Episode }) {
  const [wanted, setWanted] = useState<string | null>(null);
  const [version, setVersion] = useState<TagVersion>("2.3");
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
        <LabelledPick
          name="Format"
          value={chosen?.label ?? ""}
          onPick={setWanted}
          options={(formats ?? []).map(
            ({ label, usual }) => [label, usual ? `${label} (usual)` : label] as const,
          )}
        />
        <LabelledPick
          name="Tag version"
          value={version}
          onPick={setVersion}
          options={TAG_VERSIONS}
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

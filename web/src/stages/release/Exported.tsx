/** What one press made: how far it is, what is wrong with it, or what each file reads as. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Episode, type Job, RATE, take, underWay } from "../../api/client";
import { againJob, keys } from "../../api/queries";
import { Figure } from "../../theme/Meaning";
import { Sure } from "../../theme/Sure";
import { announce, complain } from "../../theme/toaster";
import { clock, megabytes } from "../../time";
import { Card } from "../Panel";
import { Busy } from "./Busy";
import { FilePlayer } from "./FilePlayer";

/** What a finished file reads as. */
export interface Report {
  label: string;
  bytes: number;
  sha256: string;
  measured: { duration_s: number; integrated_lufs: number | null; true_peak_dbtp: number | null };
  /** Not there of files of before. */
  loudness_lufs?: (number | null)[];
  target_lufs: number;
  tags: Record<string, string>;
  chapters: number;
  warnings: string[];
}

interface Params {
  file_name: string;
  revision: number;
  files: { name: string }[];
}

interface Props {
  job: Job;
  episode: Episode;
  behind: (revision: number) => number;
}

const DELETE: Record<number, string> = { 1: "Delete", 2: "Delete both" };

const ending = (name: string) => name.slice(name.lastIndexOf("."));

export function Exported({ job, episode, behind }: Props) {
  const params = job.params as unknown as Params;
  const reports =
    job.state === "done" ? (job.result as unknown as { files?: Report[] } | null)?.files : null;
  const queries = useQueryClient();
  const [asking, setAsking] = useState(false);
  const remove = () =>
    take(client.DELETE("/api/exports/{job_id}", { params: { path: { job_id: job.id } } }))
      .then(() => queries.invalidateQueries({ queryKey: keys.jobs(episode.id) }))
      .catch(complain);
  const retry = () => void againJob(job.id).catch(complain);
  const busy = underWay(job);
  const late = behind(params.revision);
  return (
    <Card data-testid="export">
      <Flex align="baseline" gap="2">
        <Text flex="1" fontWeight="700" truncate title={params.file_name}>
          {params.file_name}
        </Text>
        <Text fontSize="12px" color={late ? "trouble" : "quiet"} data-testid="behind">
          {late === 0
            ? "of the episode as it is now"
            : `${late === 1 ? "1 edit" : `${late} edits`} behind`}
        </Text>
        {!busy && (
          <Button
            size="2xs"
            variant="ghost"
            color="quiet"
            onClick={() => (reports ? setAsking(true) : void remove())}
          >
            {reports ? (DELETE[reports.length] ?? "Delete all") : "Remove from the list"}
          </Button>
        )}
      </Flex>
      {busy && <Busy job={job} />}
      {reports?.map((report, number) => (
        <OneFile
          key={params.files[number]?.name ?? number}
          job={job}
          number={number}
          name={`${params.file_name}${ending(params.files[number]?.name ?? "")}`}
          report={report}
          episode={episode}
          revision={params.revision}
        />
      ))}
      {asking && (
        <Sure
          title={reports?.length === 1 ? "Delete this file?" : "Delete these files?"}
          no="Keep"
          yes="Delete"
          palette="red"
          onYes={() => void remove()}
          onClose={() => setAsking(false)}
        >
          {reports?.length === 1 ? "It" : "They"} can be made again from the episode. What was
          handed over stays where it is.
        </Sure>
      )}
      {!busy && !reports && (
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

interface FileProps {
  job: Job;
  number: number;
  name: string;
  report: Report;
  episode: Episode;
  revision: number;
}

function OneFile({ job, number, name, report, episode, revision }: FileProps) {
  const { measured } = report;
  const address = `/api/exports/${job.id}/file?number=${number}`;
  const keepAsSound = () => {
    const params = { path: { job_id: job.id }, query: { number } };
    void take(client.POST("/api/exports/{job_id}/sound", { params })).catch(complain);
  };
  return (
    <Flex
      direction="column"
      gap="2"
      mt="2"
      pt="2"
      borderTopWidth={number ? "1px" : "0"}
      borderColor="rule"
    >
      <Text data-testid="report">
        <b>{report.label}</b> · Reads <Figure value={measured.integrated_lufs} unit="LUFS" />,{" "}
        <Figure value={measured.true_peak_dbtp} unit="dBTP" />, {clock(measured.duration_s * RATE)},{" "}
        {Object.keys(report.tags).length} tags
        {report.chapters > 0 && `, ${report.chapters} chapters`}
      </Text>
      {report.warnings.map((warning) => (
        <Text key={warning} fontSize="13px" color="trouble">
          {warning}
        </Text>
      ))}
      <FilePlayer
        src={address}
        seconds={measured.duration_s}
        lufs={report.loudness_lufs ?? []}
        episode={episode}
        revision={revision}
      />
      <Flex gap="2">
        <Button asChild size="xs" colorPalette="pine" variant="surface">
          <a href={address} download={name}>
            Download · {megabytes(report.bytes)}
          </a>
        </Button>
        <Button
          size="xs"
          variant="ghost"
          color="quiet"
          title="On the shelf of sounds of this show, for other episodes"
          onClick={keepAsSound}
        >
          Use as a sound
        </Button>
        <Button
          size="xs"
          variant="ghost"
          color="quiet"
          title="Its SHA-256, to compare a copy with"
          onClick={() => {
            void navigator.clipboard.writeText(report.sha256);
            announce("The checksum was copied.");
          }}
        >
          Copy checksum
        </Button>
      </Flex>
    </Flex>
  );
}

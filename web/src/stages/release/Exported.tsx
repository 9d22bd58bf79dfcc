/** An export: how far it is, what is wrong with it, or what it reads as and the file. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { client, type Episode, type Job, RATE, take } from "../../api/client";
import { againJob, cancelJob } from "../../api/queries";
import { ProgressBar } from "../../theme/ProgressBar";
import { complain } from "../../theme/toaster";
import { clock, figure, megabytes } from "../../time";
import { Card } from "../Panel";

interface Report {
  bytes: number;
  measured: { duration_s: number; integrated_lufs: number | null; true_peak_dbtp: number | null };
  tags: Record<string, string>;
  warnings: string[];
}

export function Exported({ job, episode }: { job: Job; episode: Episode }) {
  const params = job.params as { file_name: string; revision: number };
  const report = job.state === "done" ? (job.result as unknown as Report) : null;
  const retry = () => void againJob(job.id).catch(complain);
  const cancel = () => void cancelJob(job.id).catch(complain);
  const keepAsSound = () => {
    const path = { job_id: job.id };
    void take(client.POST("/api/exports/{job_id}/sound", { params: { path } })).catch(complain);
  };
  const busy = job.state === "running" || job.state === "queued";
  return (
    <Card data-testid="export">
      <Text fontWeight="700" truncate title={params.file_name}>
        {params.file_name}
      </Text>
      {busy && (
        <>
          <ProgressBar value={job.progress} my="2" />
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
          <Flex gap="2" mt="2">
            <Button asChild size="xs" colorPalette="pine" variant="surface">
              <a href={`/api/exports/${job.id}/file`} download={params.file_name}>
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
          </Flex>
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

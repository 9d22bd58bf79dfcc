/** What became of a batch, episode by episode. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import {
  type Batch,
  type BatchEntry,
  cancelBatch,
  isLeft,
  lastOf,
  type Recipe,
  standing,
  workSeconds,
} from "../api/batches";
import type { Job } from "../api/client";
import { left } from "../api/left";
import { againJob } from "../api/queries";
import type { Report } from "../stages/release/Exported";
import { FileStrip } from "../stages/release/FileStrip";
import { Links } from "../stages/release/Links";
import { ProgressBar } from "../theme/ProgressBar";
import { complain } from "../theme/toaster";
import { figure, megabytes, momentOf } from "../time";

const TIDIED = { gentle: "tidied gently", close: "tidied closely" } as const;

/** A recipe as one would say it. */
function said({ tidy, clean, echo, level, target_lufs, file }: Recipe) {
  const parts = [
    tidy && TIDIED[tidy],
    clean !== null && `noise lowered by ${Math.round((clean ?? 0) * 100)} %`,
    echo && "echo lowered",
    level && "phrases evened out",
    target_lufs === null ? "each at its target" : `at ${figure(target_lufs, "LUFS", 0)}`,
    file.format.toUpperCase(),
  ];
  return parts.filter(Boolean).join(", ");
}

interface Props {
  show: number;
  batch: Batch;
  pace: number | null;
  /** The last one, which stands open. */
  first: boolean;
}

export function BatchReport({ show, batch, pace, first }: Props) {
  const [open, setOpen] = useState(first);
  const toGo = batch.entries.filter(isLeft).length;
  const now = standing(batch);
  return (
    <Box as="section" mb="8" data-testid="batch">
      <Flex align="center" gap="3" borderBottomWidth="2px" borderColor="ink" pb="2">
        <Box flex="1" minW="0">
          <Text as="h2" fontFamily="heading" fontWeight="700" fontSize="17px">
            {momentOf(batch.made_at)}
            {": "}
            {counted(batch.entries)}
          </Text>
          <Text fontSize="13px" color="quiet">
            {said(batch.recipe)}
          </Text>
        </Box>
        {toGo > 0 ? (
          <Button
            size="xs"
            variant="outline"
            onClick={() => void cancelBatch(show, batch.id).catch(complain)}
          >
            Cancel what is left
          </Button>
        ) : (
          <Links
            forms={{ html: "Report as a page", csv: "As a table" }}
            address={(form) => `/api/shows/${show}/batches/${batch.id}/report?form=${form}`}
          />
        )}
        {!first && (
          <Button size="xs" variant="ghost" color="quiet" onClick={() => setOpen(!open)}>
            {open ? "Hide" : "Show"}
          </Button>
        )}
      </Flex>
      {toGo > 0 && (
        <Flex align="center" gap="3" py="2">
          <ProgressBar flex="1" value={now.done} />
          <Text fontSize="13px" color="quiet" whiteSpace="nowrap">
            {left(workSeconds(now.left, pace))}
          </Text>
        </Flex>
      )}
      {open && batch.entries.map((entry) => <Entry key={entry.job.id} entry={entry} />)}
    </Box>
  );
}

function counted(entries: BatchEntry[]) {
  const states = entries.map((one) => (isLeft(one) ? "to go" : SAYS[lastOf(one)?.state ?? ""]));
  return ["made", "failed", "cancelled", "deleted", "to go"]
    .map((says) => [states.filter((one) => (one ?? "deleted") === says).length, says] as const)
    .filter(([count]) => count)
    .map(([count, says]) => `${count} ${says}`)
    .join(", ");
}

const SAYS: Record<string, string> = {
  done: "made",
  failed: "failed",
  interrupted: "failed",
  cancelled: "cancelled",
};

function Entry({ entry }: { entry: BatchEntry }) {
  const last = lastOf(entry);
  const file = last?.kind === "export" && last.state === "done" ? fileOf(last) : null;
  const undone = (entry.job.result as { undone?: string[] } | null)?.undone ?? [];
  return (
    <Box py="2" borderBottomWidth="1px" borderColor="rule" data-testid="batch-entry">
      <Flex align="center" gap="4" minH="36px">
        <Text asChild flex="1" minW="0" truncate fontFamily="script" fontSize="16px">
          <Link to={`/episodes/${entry.episode_id}/edit`}>{entry.title}</Link>
        </Text>
        {file && last ? <Made file={file} job={last} /> : <Standing entry={entry} last={last} />}
      </Flex>
      {[...undone, ...(file?.warnings ?? [])].map((said) => (
        <Text key={said} fontSize="12px" color="quiet">
          {said}
        </Text>
      ))}
    </Box>
  );
}

const fileOf = (job: Job) =>
  (job.result as unknown as { files: Report[] } | null)?.files[0] ?? null;

function Made({ file, job }: { file: Report; job: Job }) {
  return (
    <>
      <Box w="240px">
        <FileStrip lufs={file.loudness_lufs ?? []} target={file.target_lufs} heard={0} />
      </Box>
      <Text fontSize="13px" w="90px" textAlign="right">
        {figure(file.measured.integrated_lufs, "LUFS")}
      </Text>
      <Text fontSize="13px" w="80px" textAlign="right" color="quiet">
        {figure(file.measured.true_peak_dbtp, "dBTP")}
      </Text>
      <Button asChild size="xs" variant="outline" w="150px">
        <a href={`/api/exports/${job.id}/file`} download>
          Download · {megabytes(file.bytes)}
        </a>
      </Button>
    </>
  );
}

/** How far an episode is, or why there is no file of it. */
function Standing({ entry, last }: { entry: BatchEntry; last: Job | null }) {
  if (!last) return <Text color="quiet">Its file was deleted.</Text>;
  if (isLeft(entry)) {
    return (
      <>
        <Text fontSize="13px" color="quiet" truncate>
          {last.doing}
        </Text>
        <ProgressBar w="160px" value={last.state === "running" ? last.progress : 0} />
      </>
    );
  }
  return (
    <>
      <Text fontSize="13px" color={last.state === "cancelled" ? "quiet" : "trouble"}>
        {last.error ?? "Cancelled"}
      </Text>
      <Button
        size="xs"
        variant="outline"
        w="150px"
        onClick={() => void againJob(last.id).catch(complain)}
      >
        Make it after all
      </Button>
    </>
  );
}

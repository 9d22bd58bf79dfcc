/** A file that is being made in the background, or can be downloaded. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { type Job, underWay } from "../api/client";
import { progressText } from "../api/left";
import { cancelJob, useJobs } from "../api/queries";
import { ProgressBar } from "../theme/ProgressBar";
import { complain } from "../theme/toaster";
import { megabytes } from "../time";

export function Made({ job }: { job: Job | undefined }) {
  if (!job || job.state === "cancelled") return null;
  if (underWay(job)) {
    return <Working job={job} />;
  }
  if (job.state !== "done") {
    return (
      <Text fontSize="13px" color="trouble">
        {job.error}
      </Text>
    );
  }
  const { file_name } = job.params as { file_name: string };
  const { bytes } = job.result as unknown as { bytes: number };
  return (
    <Button asChild size="xs" colorPalette="pine" variant="surface" maxW="100%">
      <a href={`/api/travelling/${job.id}/file`} download={file_name} title={file_name}>
        Download · {megabytes(bytes)}
      </a>
    </Button>
  );
}

function Working({ job }: { job: Job }) {
  const { data: jobs } = useJobs(job.episode_id);
  return (
    <Box flexBasis="100%">
      <ProgressBar value={job.progress} my="2" />
      <Flex justify="space-between" align="center">
        <Text fontSize="13px" color="quiet" truncate>
          {progressText(job, jobs)}
        </Text>
        <Button size="xs" variant="ghost" onClick={() => void cancelJob(job.id).catch(complain)}>
          Cancel
        </Button>
      </Flex>
    </Box>
  );
}

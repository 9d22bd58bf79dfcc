/** A file that is being made in the background, or can be downloaded. */
import { Box, Button, Text } from "@chakra-ui/react";
import { type Job, underWay } from "../api/client";
import { megabytes } from "../time";
import { Busy } from "./release/Busy";

export function Made({ job }: { job: Job | undefined }) {
  if (!job || job.state === "cancelled") return null;
  if (underWay(job)) {
    return (
      <Box flexBasis="100%">
        <Busy job={job} />
      </Box>
    );
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

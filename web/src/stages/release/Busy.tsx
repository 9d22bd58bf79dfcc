/** How far a job is that makes a file or hands one over, and its end by one press. */
import { Button, Flex, Text } from "@chakra-ui/react";
import type { Job } from "../../api/client";
import { progressText } from "../../api/left";
import { cancelJob, useJobs } from "../../api/queries";
import { ProgressBar } from "../../theme/ProgressBar";
import { complain } from "../../theme/toaster";

export function Busy({ job }: { job: Job }) {
  const { data: jobs } = useJobs(job.episode_id);
  return (
    <>
      <ProgressBar value={job.progress} my="2" />
      <Flex justify="space-between" align="center">
        <Text fontSize="13px" color="quiet">
          {progressText(job, jobs)}
        </Text>
        <Button size="xs" variant="outline" onClick={() => void cancelJob(job.id).catch(complain)}>
          Cancel
        </Button>
      </Flex>
    </>
  );
}

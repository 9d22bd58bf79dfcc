/** What a host has to know of an episode before anything else: what is damaged, what was left out,
 * which work was cut off. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import type { Episode, Job } from "../api/client";
import { againJob, cancelJob, useJobs } from "../api/queries";
import { complain } from "../theme/toaster";

export function Told({ episode }: { episode: Episode }) {
  const { data: jobs } = useJobs(episode.id);
  // What became of a batch stands in its report.
  const cutOff = jobs?.filter((job) => job.state === "interrupted" && job.kind !== "batch") ?? [];
  return (
    <>
      <Sentences episode={episode} />
      {cutOff.map((job) => (
        <CutOff key={job.id} job={job} />
      ))}
    </>
  );
}

function CutOff({ job }: { job: Job }) {
  return (
    <Bar>
      <Text flex="1">
        {job.title}: {job.error}
      </Text>
      <Button size="xs" variant="outline" onClick={() => void againJob(job.id).catch(complain)}>
        Run it again
      </Button>
      <Button
        size="xs"
        variant="ghost"
        color="quiet"
        onClick={() => void cancelJob(job.id).catch(complain)}
      >
        Leave it
      </Button>
    </Bar>
  );
}

function Bar({ children }: { children: ReactNode }) {
  return (
    <Flex
      px="5"
      py="2"
      gap="4"
      align="center"
      bg="raised"
      borderBottomWidth="1px"
      borderColor="trouble"
      fontSize="13px"
      role="alert"
    >
      {children}
    </Flex>
  );
}

function Sentences({ episode }: { episode: Episode }) {
  const [read, setRead] = useState("");
  const damaged = episode.takes.filter((take) => take.damaged);
  const sentences = [
    ...damaged.map(
      (take) =>
        `“${take.name}” is damaged on the disk: parts of it may be silent. Where the file that was added is whole, it is made anew by itself; where it is not, restore a backup.`,
    ),
    ...episode.notices,
  ];
  const all = sentences.join("\n");
  if (!all || all === read) return null;
  return (
    <Bar>
      <Box flex="1">
        {sentences.map((sentence) => (
          <Text key={sentence} color="trouble">
            {sentence}
          </Text>
        ))}
      </Box>
      <Button size="xs" variant="ghost" color="quiet" onClick={() => setRead(all)}>
        Close
      </Button>
    </Bar>
  );
}

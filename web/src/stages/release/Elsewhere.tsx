/** The episode for other machines and other tools. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { client, type Episode, type Job, take } from "../../api/client";
import { cancelJob, useJobs } from "../../api/queries";
import { ProgressBar } from "../../theme/ProgressBar";
import { complain } from "../../theme/toaster";
import { megabytes } from "../../time";
import { Card, Heading } from "../Panel";

const LISTS = { otio: "Cut list (OTIO)", vtt: "Chapters (VTT)", csv: "Parts (CSV)" } as const;

export function Elsewhere({ episode }: { episode: Episode }) {
  const { data: jobs } = useJobs(episode.id);
  const of = (kind: string) => (jobs ?? []).findLast((job) => job.kind === kind);
  const at = { params: { path: { episode_id: episode.id } } };
  const pack = () => void take(client.POST("/api/episodes/{episode_id}/pack", at)).catch(complain);
  const tracks = (with_sound: boolean) =>
    void take(
      client.POST("/api/episodes/{episode_id}/tracks", {
        ...at,
        body: { revision: episode.revision, form: "flac", with_sound },
      }),
    ).catch(complain);
  return (
    <Box mt="5" data-testid="elsewhere">
      <Heading>Take it elsewhere</Heading>
      <Card>
        <Text fontSize="13px" color="quiet" mb="2">
          All of it as one file: recordings, words, every change. Another Air Trim opens it from its
          shelf.
        </Text>
        <Button size="xs" variant="outline" disabled={!episode.frames} onClick={pack}>
          Pack the episode
        </Button>
        <Made job={of("pack")} />
        <Text fontSize="13px" color="quiet" mt="3" mb="2">
          Each track as a file from zero on, for other tools.
        </Text>
        <Flex gap="1.5" wrap="wrap">
          <Button
            size="xs"
            variant="outline"
            disabled={!episode.frames}
            onClick={() => tracks(false)}
          >
            Tracks, cut only
          </Button>
          <Button
            size="xs"
            variant="outline"
            disabled={!episode.frames}
            onClick={() => tracks(true)}
          >
            Tracks, with sound
          </Button>
        </Flex>
        <Made job={of("tracks")} />
        <Flex gap="1.5" wrap="wrap" mt="3">
          {Object.entries(LISTS).map(([form, says]) => (
            <Button key={form} asChild size="xs" variant="outline">
              <a
                href={`/api/episodes/${episode.id}/lists?revision=${episode.revision}&form=${form}`}
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

/** What is being made, or the file. */
function Made({ job }: { job: Job | undefined }) {
  if (!job || job.state === "cancelled") return null;
  if (job.state === "queued" || job.state === "running") {
    return (
      <>
        <ProgressBar value={job.progress} my="2" />
        <Flex justify="space-between" align="center">
          <Text fontSize="13px" color="quiet" truncate>
            {job.doing}
          </Text>
          <Button size="xs" variant="ghost" onClick={() => void cancelJob(job.id).catch(complain)}>
            Cancel
          </Button>
        </Flex>
      </>
    );
  }
  if (job.state !== "done") {
    return (
      <Text fontSize="13px" color="trouble" mt="2">
        {job.error}
      </Text>
    );
  }
  const { file_name } = job.params as { file_name: string };
  const { bytes } = job.result as unknown as { bytes: number };
  return (
    <Button asChild size="xs" mt="2" colorPalette="pine" variant="surface" maxW="100%">
      <a href={`/api/travelling/${job.id}/file`} download={file_name} title={file_name}>
        Download · {megabytes(bytes)}
      </a>
    </Button>
  );
}

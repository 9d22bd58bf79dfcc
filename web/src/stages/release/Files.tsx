/** The files that were made: what each reads, how far it is behind, and the file itself. */
import { Box, Button, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, type Episode, RATE, take } from "../../api/client";
import { useHistory, useJobs } from "../../api/queries";
import { playAcross } from "../../playback/seams";
import { complain } from "../../theme/toaster";
import { Heading } from "../Panel";
import { Exported } from "./Exported";

const BESIDE_SPLICE = 1.5 * RATE;

export function Files({ episode }: { episode: Episode }) {
  const { data: jobs } = useJobs(episode.id);
  const { data: history = [] } = useHistory(episode.id, episode.revision);
  const { data: splices } = useQuery({
    queryKey: ["splices", episode.id, episode.revision],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/splices", {
          params: { path: { episode_id: episode.id }, query: { revision: episode.revision } },
        }),
      ),
  });
  const made = (jobs ?? []).filter((job) => job.kind === "export").reverse();
  const order = [0, ...history.map(({ revision }) => revision)];
  const now = order.indexOf(episode.revision);
  /** How many edits a file is behind, at least one where it is of another state. */
  const behind = (revision: number) => {
    if (revision === episode.revision) return 0;
    const then = order.indexOf(revision);
    return then < 0 || now < 0 ? 1 : Math.abs(now - then);
  };
  return (
    <Box maxW="820px" data-testid="files">
      <Heading>Files</Heading>
      <Text fontSize="13px" color="quiet" mb="3">
        {made.length
          ? "Each was decoded and measured after it was written, and its tags read by another parser."
          : "None yet. Choose on the right what to make; each is decoded and measured afterwards."}
      </Text>
      {(splices?.length ?? 0) > 0 && (
        <Button
          size="xs"
          variant="outline"
          mb="3"
          title="A second and a half before each and after it, one after another"
          onClick={() =>
            void Promise.resolve(playAcross(splices ?? [], episode.frames, BESIDE_SPLICE)).catch(
              complain,
            )
          }
        >
          Listen to every splice ({splices?.length})
        </Button>
      )}
      {made.map((job) => (
        <Exported key={job.id} job={job} episode={episode} behind={behind} />
      ))}
    </Box>
  );
}

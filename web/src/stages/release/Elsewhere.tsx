/** The episode for other machines and other tools. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { client, type Episode, take } from "../../api/client";
import { useJobs } from "../../api/queries";
import { complain } from "../../theme/toaster";
import { Made } from "../Made";
import { Card, Heading } from "../Panel";
import { CopyLinks } from "./CopyLinks";
import { Links } from "./Links";

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
        <Flex gap="1.5" wrap="wrap" align="center">
          <Button size="xs" variant="outline" disabled={!episode.frames} onClick={pack}>
            Pack the episode
          </Button>
          <Made job={of("pack")} />
        </Flex>
        <CopyLinks episode={episode} />
        <Text fontSize="13px" color="quiet" mt="3" mb="2">
          Each track as a file from zero on, for other tools.
        </Text>
        <Flex gap="1.5" wrap="wrap">
          {([false, true] as const).map((withSound) => (
            <Button
              key={String(withSound)}
              size="xs"
              variant="outline"
              disabled={!episode.frames}
              onClick={() => tracks(withSound)}
            >
              {withSound ? "Tracks, with sound" : "Tracks, cut only"}
            </Button>
          ))}
          <Made job={of("tracks")} />
        </Flex>
        <Box mt="3">
          <Links
            forms={LISTS}
            address={(form) =>
              `/api/episodes/${episode.id}/lists?revision=${episode.revision}&form=${form}`
            }
          />
        </Box>
      </Card>
    </Box>
  );
}

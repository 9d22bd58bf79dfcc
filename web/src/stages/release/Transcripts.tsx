/** What is said in the episode, as a file that players and people can read. */
import { Box, Text } from "@chakra-ui/react";
import type { Episode } from "../../api/client";
import { Card, Heading } from "../Panel";
import { Links } from "./Links";

const FORMS = { vtt: "WebVTT", srt: "SRT", json: "JSON", txt: "Plain text" } as const;

export function Transcripts({ episode }: { episode: Episode }) {
  return (
    <Box mt="5" data-testid="transcripts">
      <Heading>Transcript</Heading>
      <Card>
        <Text fontSize="13px" color="quiet" mb="2">
          Timed to the episode as it is now, with the names of those who speak.
        </Text>
        <Links
          forms={FORMS}
          address={(form) =>
            `/api/episodes/${episode.id}/transcript?revision=${episode.revision}&format=${form}`
          }
        />
      </Card>
    </Box>
  );
}

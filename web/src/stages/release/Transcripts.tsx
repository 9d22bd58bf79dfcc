/** What is said in the episode, as a file that players and people can read. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import type { Episode } from "../../api/client";
import { Card, Heading } from "../Panel";

const FORMS = { vtt: "WebVTT", srt: "SRT", json: "JSON", txt: "Plain text" } as const;

export function Transcripts({ episode }: { episode: Episode }) {
  return (
    <Box mt="5" data-testid="transcripts">
      <Heading>Transcript</Heading>
      <Card>
        <Text fontSize="13px" color="quiet" mb="2">
          Timed to the episode as it is now, with the names of those who speak.
        </Text>
        <Flex gap="1.5" wrap="wrap">
          {Object.entries(FORMS).map(([form, says]) => (
            <Button key={form} asChild size="xs" variant="outline">
              <a
                href={`/api/episodes/${episode.id}/transcript?revision=${episode.revision}&format=${form}`}
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

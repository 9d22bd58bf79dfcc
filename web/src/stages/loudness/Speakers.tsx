/** Each voice before and after, and how far apart its phrases are. */
import { Box, Button, HStack, Table, Text } from "@chakra-ui/react";
import { type Episode, type Levels, underWay } from "../../api/client";
import { startRide, useJobs } from "../../api/queries";
import { Meaning } from "../../theme/Meaning";
import { complain } from "../../theme/toaster";
import { figure } from "../../time";
import { Heading } from "../Panel";

/** Each voice by one gain, all the way. */
const BY_VOICE = { each: "voice", share: 1, most_db: 12, rate_db_s: 10 } as const;

export function Speakers({ episode, levels }: { episode: Episode; levels: Levels }) {
  if (!levels.speakers.length) return null;
  const name = (id: string) => episode.tracks.find((t) => t.id === id)?.name ?? "";
  const shared = new Set(levels.speakers.map((one) => one.track)).size < levels.speakers.length;
  return (
    <Box mt="5">
      <Heading>Voices</Heading>
      <Table.Root size="sm" mt="2" data-testid="speakers">
        <Table.Header>
          <Table.Row bg="transparent">
            {["Name", "Before", "After", "Phrases apart"].map((title, i) => (
              <Table.ColumnHeader key={title} py="1" color="quiet" textAlign={i ? "right" : "left"}>
                {title === "Phrases apart" ? <Meaning of={title} /> : title}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {levels.speakers.map((one) => (
            <Table.Row key={`${one.track} ${one.name}`} bg="transparent">
              <Table.Cell py="1">{one.name || name(one.track)}</Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {figure(one.before, "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right" fontWeight="700">
                {figure(one.after, "LUFS")}
              </Table.Cell>
              <Table.Cell py="1" textAlign="right">
                {figure(one.spread_lu, "LU")}
              </Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      {shared && <Nearer episode={episode} />}
    </Box>
  );
}

/** Those who share a track brought to the same loudness. */
function Nearer({ episode }: { episode: Episode }) {
  const { data: jobs } = useJobs(episode.id);
  const busy = jobs?.some((j) => j.kind === "ride" && underWay(j));
  const { id, revision } = episode;
  return (
    <HStack mt="2" gap="3">
      <Button
        size="xs"
        variant="outline"
        loading={Boolean(busy)}
        onClick={() => void startRide(id, { revision, riding: BY_VOICE }).catch(complain)}
      >
        Even out voices
      </Button>
      <Text fontSize="12px" color="quiet">
        Who speaks on one track, each by one gain. Writes gain points.
      </Text>
    </HStack>
  );
}

/** What a host has to know of an episode before anything else: what is damaged, what was left out. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Episode } from "../api/client";

export function Told({ episode }: { episode: Episode }) {
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
    </Flex>
  );
}

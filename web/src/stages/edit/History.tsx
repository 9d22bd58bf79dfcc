/** What was done, newest first, with times; a click goes to that state, forwards or back. */
import { Box, Flex, Text } from "@chakra-ui/react";
import type { Episode } from "../../api/client";
import { useHistory, useJump } from "../../api/queries";
import { lately } from "../../time";

const SHOWN = 200;

export function History({ episode }: { episode: Episode }) {
  const { data } = useHistory(episode.id, episode.revision);
  const jump = useJump(episode.id);
  const entries = (data ?? []).slice(-SHOWN).reverse();
  const start = { revision: 0, name: "The start, with nothing in it", done: true, made_at: "" };
  const all = (data?.length ?? 0) <= SHOWN ? [...entries, start] : entries;
  return (
    <Box data-testid="history">
      {all.map((entry) => {
        const here = entry.revision === episode.revision;
        return (
          <Flex
            as="button"
            key={entry.revision}
            w="100%"
            gap="2"
            justify="space-between"
            textAlign="left"
            fontSize="13px"
            py="1"
            px="1"
            borderBottomWidth="1px"
            borderColor="rule"
            color={entry.done ? "ink" : "quiet"}
            bg={here ? "mark" : undefined}
            aria-current={here ? "step" : undefined}
            title={
              here
                ? "The episode stands here"
                : entry.done
                  ? "Go back to here"
                  : "Undone; go to here"
            }
            onClick={() => !here && jump.mutate(entry.revision)}
          >
            <Text textDecoration={entry.done ? undefined : "line-through"}>{entry.name}</Text>
            <Text color={here ? "ink" : "quiet"} whiteSpace="nowrap" fontSize="12px">
              {entry.made_at && lately(entry.made_at)}
            </Text>
          </Flex>
        );
      })}
    </Box>
  );
}

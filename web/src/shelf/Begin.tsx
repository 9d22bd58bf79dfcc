/** For whoever is here for the first time: five steps on an episode that is there. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { useNavigate } from "react-router";
import { leaveWalk, useWalk, WALK, walk } from "../view/walk";
import type { EpisodeItem } from "./EpisodeLine";

export function Begin({ episode }: { episode: EpisodeItem }) {
  const { episode: before, step } = useWalk();
  const go = useNavigate();
  const left = before !== null && step > 0;
  return (
    <Flex align="center" gap="3" py="2.5" px="4" mt="3" bg="pine.subtle" borderRadius="10px">
      <Text flex="1" fontSize="14px">
        <b>{left ? "The five steps are still open." : "New here?"}</b> Five steps on “
        {episode.title}”: {WALK.map(({ name }) => name.toLowerCase()).join(", ")}.
      </Text>
      <Button
        size="xs"
        colorPalette="pine"
        onClick={() => {
          walk(episode.id);
          go(`/episodes/${episode.id}/edit`);
        }}
      >
        {left ? "Go on" : "Take them"}
      </Button>
      <Button size="xs" variant="ghost" onClick={leaveWalk}>
        Not now
      </Button>
    </Flex>
  );
}

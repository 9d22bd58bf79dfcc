/** The step that somebody who begins is at: what to do, where, and how far it is. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect } from "react";
import { Link, useLocation } from "react-router";
import type { Episode } from "../api/client";
import { usePlayer } from "../playback/player";
import { STAGES } from "../stages";
import { isDone, leaveWalk, useWalk, WALK } from "../view/walk";
import { useStanding } from "./standing";

interface Props {
  episode: Episode;
  page: boolean;
}

export function Walk({ episode, page }: Props) {
  const walks = useWalk((w) => w.episode === episode.id && !w.over);
  return walks && episode.frames > 0 ? <Bar episode={episode} page={page} /> : null;
}

function Bar({ episode, page }: Props) {
  const step = useWalk((w) => w.step);
  const playing = usePlayer((p) => p.playing);
  const { data } = useStanding(episode, page);
  const { pathname } = useLocation();
  const one = WALK[step];
  const done = one !== undefined && isDone(step, episode, playing, data?.steps ?? []);
  useEffect(() => {
    if (done) useWalk.setState({ step: step + 1, trimmed: episode.trimmed });
  }, [done, step, episode.trimmed]);
  const there = `/episodes/${episode.id}/${one?.stage}`;
  const stage = STAGES.find(({ path }) => path === one?.stage);
  return (
    <Flex
      as="section"
      aria-label="Five steps"
      align="center"
      flexShrink="0"
      minH="44px"
      gap="4"
      px="5"
      py="1.5"
      bg="pine.subtle"
      borderBottomWidth="1px"
      borderColor="rule"
      fontSize="14px"
      data-testid="walk"
    >
      <Dots step={step} />
      <Text flex="1" minW="0" lineHeight="1.35" role="status">
        {one ? (
          <>
            <b>{one.name}.</b> {one.says}
          </>
        ) : (
          <>
            <b>That is all there is to it.</b> Everything you did can be undone; the recording
            itself was never touched.
          </>
        )}
      </Text>
      {one && !pathname.startsWith(there) && (
        <Button asChild size="xs" colorPalette="pine">
          <Link to={there}>Go to {stage?.name}</Link>
        </Button>
      )}
      <Button size="xs" variant="ghost" onClick={leaveWalk}>
        {one ? "Leave" : "Finish"}
      </Button>
    </Flex>
  );
}

function Dots({ step }: { step: number }) {
  return (
    <Flex
      gap="1.5"
      role="img"
      aria-label={`Step ${Math.min(step + 1, WALK.length)} of ${WALK.length}`}
    >
      {WALK.map((one, i) => (
        <Box
          key={one.name}
          w="10px"
          h="10px"
          alignSelf="center"
          borderRadius="full"
          borderWidth={i === step ? "3px" : "1px"}
          borderColor="pine.solid"
          bg={i < step ? "pine.solid" : "transparent"}
          transform={i === step ? "scale(1.3)" : undefined}
        />
      ))}
    </Flex>
  );
}

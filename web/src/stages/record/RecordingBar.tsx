/** While a recording runs, every other screen says so, with a way back and a way to end it. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { Link, useLocation } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { useCall, useUnrecorded } from "../../record/call";
import { addWithout, finish } from "../../record/recorder";
import { useTape } from "../../record/tape";
import { Elapsed } from "./Elapsed";

const SAYS = { recording: "Recording", paused: "Recording paused", ending: "Adding the recording" };

export function RecordingBar() {
  const { phase, episode, trouble, unsent, waitingFor } = useTape(
    useShallow(({ phase, episode, trouble, unsent, waitingFor }) => ({
      phase,
      episode,
      trouble,
      unsent,
      waitingFor,
    })),
  );
  const { pathname } = useLocation();
  const closed = useCall((c) => c.closed);
  const missed = useUnrecorded();
  const stage = `/episodes/${episode}/record`;
  if (phase === "idle" || phase === "leading" || pathname === stage) return null;
  const guests = missed.length ? `${missed.join(" and ")}: not recorded` : null;
  return (
    <Flex
      role="status"
      aria-label="Recording"
      data-testid="recording-bar"
      align="center"
      gap="3"
      h="44px"
      px="5"
      flexShrink="0"
      bg="raised"
      borderBottomWidth="2px"
      borderColor={phase === "recording" ? "trouble" : "rule"}
      whiteSpace="nowrap"
    >
      <Box
        w="11px"
        h="11px"
        rounded={phase === "recording" ? "full" : "2px"}
        bg={phase === "recording" ? "trouble" : "quiet"}
      />
      <Text fontWeight="700">{SAYS[phase]}</Text>
      <Box w="76px" flexShrink="0">
        <Elapsed size="16px" />
      </Box>
      <Text flex="1" minW="0" truncate color="trouble" fontSize="13px">
        {[trouble, unsent, guests, closed].filter(Boolean).join(" ")}
      </Text>
      {waitingFor.length > 0 && (
        <>
          <Text fontSize="13px" color="quiet">
            The rest of {waitingFor.join(" and ")} is on its way.
          </Text>
          <Button size="xs" variant="outline" onClick={addWithout}>
            Add it without {waitingFor.join(" and ")}
          </Button>
        </>
      )}
      <Button asChild size="xs" variant="outline">
        <Link to={stage}>Back to the recording</Link>
      </Button>
      <Button
        size="xs"
        colorPalette="pine"
        loading={phase === "ending"}
        loadingText="Adding it"
        onClick={() => void finish()}
      >
        End and add it
      </Button>
    </Flex>
  );
}

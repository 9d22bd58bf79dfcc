/** A guest's own page: one microphone, its level, the call, and a recording as safe as the host's. */
import { Box, Button, Flex, HStack, Spinner, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef } from "react";
import { useParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { client, Problem, RATE, type Schemas, take } from "../api/client";
import { joinCall, leaveCall, useCall } from "../record/call";
import { openMicrophones, setMonitoring, useCapture } from "../record/capture";
import { end, followHost, goOnAsGuest, wasRecordedBeside } from "../record/guest";
import { useBehind, useTape } from "../record/tape";
import { Card, Heading } from "../stages/Panel";
import { Elapsed } from "../stages/record/Elapsed";
import { MuteVoice, Voice } from "../stages/record/Guests";
import { LevelMeter } from "../stages/record/LevelMeter";
import { LiveLines } from "../stages/record/LiveLines";
import { Microphones } from "../stages/record/Microphones";
import { useMicrophones } from "../stages/record/useMicrophones";
import { ModeButton } from "../theme/ModeButton";
import { TopBar } from "../theme/TopBar";
import { clock } from "../time";

export function JoinPage() {
  const { token = "" } = useParams();
  const closed = useCall((c) => c.closed);
  const { data, error, refetch } = useQuery({
    queryKey: ["join", token],
    queryFn: () => take(client.GET("/api/join/{token}", { params: { path: { token } } })),
  });
  const shut = closed ?? (error && !data ? error.message : null);
  if (shut) {
    return (
      <Middle>
        <Text fontFamily="heading" fontSize="26px" fontWeight="700">
          {error instanceof Problem && error.status === 0 ? "No connection" : "This link is closed"}
        </Text>
        <Text color="quiet" role="alert">
          {shut}
        </Text>
        <Text color="quiet" fontSize="13px">
          What was recorded of you is kept.
        </Text>
        <Button
          variant="outline"
          onClick={() => {
            useCall.setState({ closed: null });
            void refetch();
          }}
        >
          Try again
        </Button>
      </Middle>
    );
  }
  if (!data) {
    return (
      <Middle>
        <Spinner color="pine.solid" />
      </Middle>
    );
  }
  return <Joined token={token} joined={data} />;
}

function Middle({ children }: { children: ReactNode }) {
  return (
    <Flex h="100%" direction="column" align="center" justify="center" gap="3" px="6">
      {children}
    </Flex>
  );
}

function Joined({ token, joined }: { token: string; joined: Schemas["Joined"] }) {
  const recording = useTape((t) => t.recording) !== null;
  const choice = useMicrophones(joined.name, 1);
  useEffect(() => {
    setMonitoring(false);
    joinCall(`/api/join/${token}/call`);
    const leave = followHost(token);
    return () => {
      leave();
      leaveCall();
    };
  }, [token]);
  const on = useCapture((c) => c.phase === "on");
  const hosts = useCall((c) => (c.there ? c.recording : null));
  const resumes = hosts !== null && hosts === wasRecordedBeside();
  const { microphones } = choice;
  const wanted = useRef(microphones);
  wanted.current = microphones;
  // A page that was loaded again goes on where it stopped.
  useEffect(() => {
    if (resumes && useCapture.getState().phase === "off") void openMicrophones(wanted.current);
  }, [resumes]);
  return (
    <Flex direction="column" h="100%">
      <TopBar gap="3">
        <Text fontFamily="heading" fontWeight="700" fontSize="18px">
          {joined.show}
        </Text>
        <Text color="quiet" truncate flex="1">
          {joined.episode}
        </Text>
        <ModeButton />
      </TopBar>
      <Box flex="1" minH="0" overflowY="auto">
        <Box maxW="760px" mx="auto" px="6" py="6">
          <Text fontFamily="heading" fontSize="26px" fontWeight="700">
            Hello, {joined.name}
          </Text>
          <Text color="quiet" mb="5">
            {recording
              ? "You are being recorded, here on your own machine, at full quality. Stay on this page until your host ends it."
              : "Your host begins and ends the recording. Put headphones on, so that your microphone hears you alone, and switch it on."}
          </Text>
          {hosts && !on && <Missed onStart={() => void openMicrophones(microphones)} />}
          {recording ? (
            <BeingRecorded name={joined.name} />
          ) : (
            <Microphones choice={choice} guest judge={`/api/join/${token}/microphone-check`} />
          )}
          <Others />
        </Box>
      </Box>
    </Flex>
  );
}

/** The host records and this guest is not recorded: one large button. */
function Missed({ onStart }: { onStart: () => void }) {
  return (
    <Card data-testid="missed">
      <Text fontSize="18px" fontWeight="700" color="trouble" role="alert">
        Your host is recording, and you are not recorded.
      </Text>
      <Button
        size="xl"
        mt="3"
        bg="trouble"
        color="pine.contrast"
        rounded="full"
        px="8"
        onClick={onStart}
      >
        Record me now
      </Button>
    </Card>
  );
}

function BeingRecorded({ name }: { name: string }) {
  const { phase, safe, trouble, unsent, inputs } = useTape(
    useShallow(({ phase, safe, trouble, unsent, inputs }) => ({
      phase,
      safe,
      trouble,
      unsent,
      inputs,
    })),
  );
  const there = useCall((c) => c.there);
  const behind = useBehind();
  return (
    <>
      <Card data-testid="being-recorded">
        <Flex align="center" gap="6">
          <Box w="190px" flexShrink="0">
            <HStack gap="2" color={phase === "recording" ? "trouble" : "quiet"} fontWeight="700">
              <Box w="11px" h="11px" rounded="full" bg="currentColor" />
              {phase === "recording"
                ? "Recording"
                : phase === "ending"
                  ? "Sending the rest…"
                  : "Paused"}
            </HStack>
            <Elapsed size="40px" />
          </Box>
          <Box flex="1">
            <LevelMeter input={inputs[0] ?? 0} name={name} />
          </Box>
        </Flex>
        <Text fontSize="13px" color="quiet" mt="2" data-testid="safety">
          {clock(safe)} of it is safe with your host
          {behind > 2
            ? `; ${clock(behind * RATE)} wait in this browser and are sent as soon as possible.`
            : "."}
        </Text>
        {[trouble, unsent].map(
          (sentence) =>
            sentence && (
              <Text key={sentence} mt="2" color="trouble" role="alert">
                {sentence}
              </Text>
            ),
        )}
        <HStack mt="3" gap="2">
          {trouble && phase === "paused" && (
            <Button size="sm" colorPalette="pine" onClick={() => void goOnAsGuest()}>
              Go on
            </Button>
          )}
          {!there && phase !== "ending" && (
            <Button size="sm" variant="outline" onClick={() => void end()}>
              End my recording
            </Button>
          )}
        </HStack>
        {!there && (
          <Text fontSize="13px" color="quiet" mt="2">
            The connection to your host is lost. You are recorded all the same; go on speaking, or
            end it here.
          </Text>
        )}
      </Card>
      <Box h="114px" display="flex" flexDirection="column">
        <LiveLines tracks={1} />
      </Box>
    </>
  );
}

/** Who else is there, and whether they are heard. */
function Others() {
  const { peers, there } = useCall();
  const on = useCapture((c) => c.phase === "on");
  return (
    <Box mt="6">
      <Heading>Who is here</Heading>
      <Card data-testid="others">
        {!peers.length && (
          <Text color="quiet">
            {there ? "Your host is not here yet. Leave this page open." : "Connecting…"}
          </Text>
        )}
        {peers.map((peer) => (
          <Flex key={peer.id} align="center" gap="3" py="1">
            <Voice level={peer.level} />
            <Text fontWeight="700">{peer.host ? "Your host" : peer.name}</Text>
            <Text color="quiet" fontSize="13px" flex="1">
              {!on
                ? "You hear each other once your microphone is on."
                : peer.reached === "yes"
                  ? "You hear each other."
                  : peer.reached === "failed"
                    ? "No way was found to hear each other. The recording does not need it."
                    : peer.microphone
                      ? "Connecting…"
                      : "Microphone still off."}
            </Text>
            <MuteVoice peer={peer} />
          </Flex>
        ))}
      </Card>
    </Box>
  );
}

/** Record: microphones and their levels, where it lands, and the recording while it is made. */

import { Box, Button, Flex, HStack, NativeSelect, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Context } from "../../actions/action";
import { useProvided } from "../../actions/provided";
import { type Episode, RATE } from "../../api/client";
import { useUnrecorded } from "../../record/call";
import { closeMicrophones } from "../../record/capture";
import { useLanding } from "../../record/landing";
import {
  addWithout,
  callOff,
  finish,
  goOn,
  type LeadIn,
  pause,
  playsAlong,
  record,
} from "../../record/recorder";
import { flag, useBehind, useReady, useTape } from "../../record/tape";
import { clock } from "../../time";
import { Card, Heading, Panel } from "../Panel";
import { AtHand } from "./AtHand";
import { Elapsed } from "./Elapsed";
import { Guests, useHostCall } from "./Guests";
import { LandingChoice, told } from "./LandingChoice";
import { LandingLines } from "./LandingLines";
import { LevelMeter } from "./LevelMeter";
import { Listening } from "./Listening";
import { LiveLines } from "./LiveLines";
import { Microphones } from "./Microphones";
import { Reading, ScriptCard } from "./Script";
import { Unfinished } from "./Unfinished";
import { useMicrophones } from "./useMicrophones";

export function RecordStage({ context: { episode } }: { context: Context }) {
  const phase = useTape((t) => t.phase);
  const busy = useTape((t) => t.recording) !== null;
  const elsewhere = useTape((t) => t.episode) !== episode.id && busy;
  const { way, landing } = useLanding();
  const [chosenLead, setLeadIn] = useState<LeadIn | null>(null);
  const [along, setAlong] = useState(false);
  const leadIn = chosenLead ?? (way === "over" ? "hear" : "none");
  const choice = useMicrophones(episode.tracks.find((t) => t.kind === "voice")?.name ?? "Voice");
  const tracks = choice.microphones.filter((m) => m.armed).map((m) => m.track);
  useHostCall(episode.id);

  // A microphone is not left open behind the host's back; a recording goes on whatever is shown.
  useEffect(
    () => () => {
      if (!useTape.getState().recording) closeMicrophones();
    },
    [],
  );
  useRecordKeys(busy);

  return (
    <Flex flex="1" minH="0">
      <Flex direction="column" flex="1" minW="0" minH="0">
        {elsewhere ? (
          <Text m="auto" color="quiet">
            A recording is being made in another episode. End it there first.
          </Text>
        ) : phase === "leading" ? (
          <Leading />
        ) : busy ? (
          <During episode={episode} />
        ) : (
          <Box overflowY="auto" px="6" py="4">
            <Unfinished episode={episode} choice={choice} />
            <Microphones choice={choice} />
            <Begin
              onRecord={() =>
                void record({
                  episode: episode.id,
                  landing,
                  leadIn,
                  after: landing.at ?? episode.frames,
                  along: along && way === "beside",
                })
              }
              first={episode.frames === 0}
              leadIn={leadIn}
              onLeadIn={setLeadIn}
            />
            {episode.frames > 0 && (
              <LandingLines episode={episode} landing={landing} tracks={tracks} />
            )}
          </Box>
        )}
      </Flex>
      <Panel>
        <Heading>Where it will go</Heading>
        {busy ? (
          <>
            <Settled />
            <Safety />
          </>
        ) : (
          <>
            <LandingChoice episode={episode} tracks={tracks} />
            <ScriptCard episode={episode} />
            <Listening mayPlay={way === "beside"} along={along} onAlong={setAlong} />
          </>
        )}
        <AtHand episode={episode} />
        <Guests episode={episode.id} />
        {!busy && <Advice />}
      </Panel>
    </Flex>
  );
}

interface BeginProps {
  onRecord: () => void;
  first: boolean;
  leadIn: LeadIn;
  onLeadIn: (leadIn: LeadIn) => void;
}

function Begin({ onRecord, first, leadIn, onLeadIn }: BeginProps) {
  const ready = useReady();
  return (
    <Flex align="center" gap="4" mt="2">
      <Button
        size="xl"
        bg="trouble"
        color="pine.contrast"
        rounded="full"
        px="8"
        disabled={!ready}
        title="R"
        onClick={onRecord}
      >
        <Box w="14px" h="14px" rounded="full" bg="currentColor" mr="1" />
        Record
      </Button>
      <NativeSelect.Root size="sm" w="250px" flexShrink="0">
        <NativeSelect.Field
          aria-label="Lead-in"
          value={leadIn}
          onChange={(event) => onLeadIn(event.target.value as LeadIn)}
        >
          <option value="none">Begin at once</option>
          <option value="count">Count down from three</option>
          {!first && <option value="hear">Hear the three seconds before</option>}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      <Text color="quiet" fontSize="13px" maxW="380px">
        {ready
          ? "Leave two seconds of silence, then speak. On a stumble, wait a moment and say the sentence again; F flags the place."
          : first
            ? "Switch a microphone on first. Nothing is recorded until you press Record."
            : "Switch a microphone on first. What is in the episode already stays as it is."}
      </Text>
    </Flex>
  );
}

function Leading() {
  const lead = useTape((t) => t.lead);
  return (
    <Flex direction="column" m="auto" align="center" gap="2">
      <Text color="quiet">{lead ? "Recording begins in" : "Waiting for your guests to begin"}</Text>
      {lead > 0 && (
        <Text fontSize="96px" fontWeight="700" lineHeight="1" role="timer">
          {lead}
        </Text>
      )}
      <Button variant="outline" onClick={() => void callOff()}>
        Not yet
      </Button>
    </Flex>
  );
}

/** Where the recording goes that is being made: settled when it began. */
function Settled() {
  const landing = useTape((t) => t.landing);
  const tracks = useTape((t) => t.tracks);
  return (
    <Card data-testid="landing">
      <Text>{told(landing, tracks)}</Text>
    </Card>
  );
}

function During({ episode }: { episode: Episode }) {
  const { phase, trouble, unsent, flags, tracks, inputs, waitingFor } = useTape(
    useShallow(({ phase, trouble, unsent, flags, tracks, inputs, waitingFor }) => ({
      phase,
      trouble,
      unsent,
      flags,
      tracks,
      inputs,
      waitingFor,
    })),
  );
  const along = playsAlong();
  const unrecorded = useUnrecorded();
  const guests = unrecorded.length
    ? `${unrecorded.join(" and ")} ${unrecorded.length > 1 ? "are" : "is"} not recorded at the moment.`
    : null;
  return (
    <>
      <Box px="6" pt="4" pb="3" borderBottomWidth="1px" borderColor="rule">
        <Flex align="center" gap="6">
          <Box w="210px" flexShrink="0">
            <HStack gap="2" color={phase === "recording" ? "trouble" : "quiet"} fontWeight="700">
              <Box
                w="11px"
                h="11px"
                rounded={phase === "recording" ? "full" : "2px"}
                bg="currentColor"
              />
              {phase === "recording" ? "Recording" : phase === "ending" ? "Adding it…" : "Paused"}
            </HStack>
            <Elapsed size="44px" />
          </Box>
          <Box flex="1" minW="0">
            {inputs.map((input, i) => (
              <Box key={input}>
                {inputs.length > 1 && (
                  <Text fontSize="12px" color="quiet">
                    {tracks[i]}
                  </Text>
                )}
                <LevelMeter input={input} name={tracks[i] ?? "the microphone"} />
              </Box>
            ))}
          </Box>
        </Flex>
        <HStack mt="3" gap="2">
          {phase === "paused" ? (
            <Button variant="outline" onClick={() => void goOn()} title="R">
              Go on
            </Button>
          ) : (
            <Button
              variant="outline"
              onClick={() => void pause()}
              disabled={phase !== "recording" || along}
              title={along ? "Other tracks play along: end it, then record the next part" : "R"}
            >
              Pause
            </Button>
          )}
          <Button variant="outline" onClick={flag} disabled={phase !== "recording"} title="F">
            Flag a mistake
          </Button>
          <Button
            colorPalette="pine"
            loading={phase === "ending"}
            loadingText="Adding it"
            onClick={() => void finish()}
          >
            End and add it
          </Button>
          {waitingFor.length > 0 && (
            <Button variant="outline" onClick={addWithout}>
              Add it without {waitingFor.join(" and ")}
            </Button>
          )}
          <Text color="quiet" fontSize="13px" ml="2">
            {waitingFor.length > 0
              ? `The rest of ${waitingFor.join(" and ")} is on its way.`
              : flags.length > 0 && `${flags.length} flag${flags.length > 1 ? "s" : ""}`}
          </Text>
        </HStack>
        {[guests, trouble, unsent].map(
          (sentence) =>
            sentence && (
              <Text key={sentence} mt="3" fontWeight="700" color="trouble" role="alert">
                {sentence}
              </Text>
            ),
        )}
      </Box>
      <Reading episode={episode} />
      <LiveLines tracks={Math.max(1, tracks.length)} />
    </>
  );
}

function Safety() {
  const { safe, secondsLeft, phase } = useTape(
    useShallow((t) => ({
      safe: Math.floor(t.safe / (RATE / 10)) * (RATE / 10),
      secondsLeft: t.secondsLeft && Math.floor(t.secondsLeft / 60) * 60,
      phase: t.phase,
    })),
  );
  const behind = useBehind();
  return (
    <>
      <Heading>Safe so far</Heading>
      <Card data-testid="safety">
        <Text>
          <b>{clock(safe)}</b> on disk
        </Text>
        <Text fontSize="13px" color="quiet" mt="1">
          {phase === "recording"
            ? behind > 3
              ? `${clock(behind * RATE)} wait in this browser and are sent as soon as Air Trim answers.`
              : "What you say is on disk within a second, and in this browser before that."
            : "Nothing of it is lost if this page is closed now."}
        </Text>
        {secondsLeft !== null && (
          <Text fontSize="13px" color={secondsLeft < 1800 ? "trouble" : "quiet"} mt="1">
            The disk has room for {hours(secondsLeft)} more.
          </Text>
        )}
      </Card>
    </>
  );
}

const hours = (seconds: number) =>
  seconds > 7200 ? `${Math.floor(seconds / 3600)} hours` : `${Math.floor(seconds / 60)} minutes`;

function Advice() {
  return (
    <>
      <Heading>Before you begin</Heading>
      <Card>
        <Text fontSize="13px" color="quiet">
          About a hand’s width from the microphone, in a quiet room, windows shut. Try it for five
          seconds: you are told what to change. The voice is recorded as it is; nothing is added or
          taken away.
        </Text>
      </Card>
    </>
  );
}

function useRecordKeys(busy: boolean) {
  const recording = () => useTape.getState().phase === "recording";
  useProvided({
    "record-flag": () => recording() && flag(),
    "record-pause": () => busy && void (recording() ? pause() : goOn()),
  });
}

/** Sound: what a voice measures, what would help, and its chain, heard while it is changed. */

import { Box, Button, Flex, HStack, Input, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { Context } from "../../actions/action";
import { useProvided } from "../../actions/provided";
import { client, type Episode, type Schemas, type Track, take } from "../../api/client";
import { startClean, useChains, useJobs, useSound } from "../../api/queries";
import { loop, stop, usePlayer } from "../../playback/player";
import { Ask } from "../../theme/Ask";
import { Figure, Meaning } from "../../theme/Meaning";
import { Toggle } from "../../theme/Toggle";
import { announce, complain } from "../../theme/toaster";
import { figure } from "../../time";
import { Heading, Panel } from "../Panel";
import { Dynamics } from "./Dynamics";
import { Graph } from "./Graph";
import { Steps } from "./Steps";
import { type Hear, useTreatment } from "./treatment";

/** What the usual suggestions take: what stands below does not jump when they come. */
const HELPS_PX = 174;

export function SoundStage({ context: { episode } }: { context: Context }) {
  const voices = episode.tracks.filter((t) => t.kind === "voice" && t.frames > 0);
  const [chosen, setChosen] = useState<string | null>(null);
  const track = voices.find((t) => t.id === chosen) ?? voices[0];
  if (!track) {
    return (
      <Flex flex="1" align="center" justify="center">
        <Text color="quiet">
          There is no voice in this episode yet. Record one, or add a recording on the Edit stage.
        </Text>
      </Flex>
    );
  }
  return (
    <Voice key={track.id} episode={episode} track={track} voices={voices} choose={setChosen} />
  );
}

interface Props {
  episode: Episode;
  track: Track;
  voices: Track[];
  choose: (id: string) => void;
}

/** What of a chain a recording is made anew by. */
function madeBy({ echo, noise }: Chain): string {
  return `${echo.on} ${noise.on} ${noise.method}`;
}

function Voice({ episode, track, voices, choose }: Props) {
  const queries = useQueryClient();
  const { data: sound, error } = useSound(episode.id, episode.revision, track.id);
  const { data: jobs } = useJobs(episode.id);
  const at = sound?.sample_start ?? 0;
  const treatment = useTreatment(episode, track, {
    start: at,
    end: at + (sound?.sample_frames ?? 384_000),
  });
  const { chain, hear, setHear, span, second, onSecond } = treatment;
  const looping = usePlayer((p) => p.looping);

  const takesOut = chain.noise.on || chain.echo.on;
  const settled = madeBy(chain) === madeBy(track.chain) && sound?.revision === episode.revision;
  // What noise and echo need is made by itself; when it is there, what is heard is fetched anew.
  const needed = sound?.revision === episode.revision && !sound.cleaned && takesOut;
  useEffect(() => {
    if (needed) void startClean(episode.id, episode.revision).catch(complain);
  }, [needed, episode.id, episode.revision]);
  const made = jobs?.filter((j) => j.kind === "clean" && j.state === "done").length ?? 0;
  const before = useRef(made);
  useEffect(() => {
    if (made !== before.current)
      void queries.invalidateQueries({ queryKey: ["sound", episode.id] });
    before.current = made;
  }, [made, queries, episode.id]);

  const toggle = () => (looping ? stop() : loop(span.start, span.end));
  const compare = (to: Hear) => setHear(hear === to ? "treated" : to);
  useProvided({
    "sound-loop": toggle,
    "sound-untouched": () => compare("untouched"),
    "sound-taken-out": () => takesOut && compare("taken_out"),
    "sound-second": () => second && treatment.switchSecond(),
  });

  return (
    <Flex flex="1" minH="0">
      <Box flex="1" minW="0" overflowY="auto" px="6" py="4">
        <HStack gap="2" mb="3" flexWrap="wrap">
          {voices.map((one) => (
            <Toggle
              key={one.id}
              size="sm"
              colorPalette={one.id === track.id ? "pine" : "gray"}
              on={one.id === track.id}
              onClick={() => choose(one.id)}
            >
              {one.name}
            </Toggle>
          ))}
          <Box flex="1" />
          <Button
            size="sm"
            variant="outline"
            // What stands beside it stays where it is when its words change.
            minW="124px"
            aria-pressed={looping}
            onClick={toggle}
            title="Hear this voice again and again (L)"
          >
            {looping ? "Stop" : "Hear this voice"}
          </Button>
          <Toggle
            size="sm"
            on={hear === "untouched"}
            title="As it was recorded, made as loud (U)"
            onClick={() => compare("untouched")}
          >
            Untouched
          </Toggle>
          <Toggle
            size="sm"
            on={hear === "taken_out"}
            disabled={!takesOut}
            title="Only what is taken out: echo and noise (O)"
            onClick={() => compare("taken_out")}
          >
            What goes
          </Toggle>
          <Toggle
            size="sm"
            on={onSecond}
            title={
              second
                ? "Between your two settings (B)"
                : "Remember this as a second setting to compare with"
            }
            onClick={second ? treatment.switchSecond : treatment.keepSecond}
          >
            {second ? (onSecond ? "Second setting" : "First setting") : "Keep as second"}
          </Toggle>
        </HStack>
        {onSecond && (
          <HStack mb="2" gap="2">
            <Text fontSize="13px">
              You hear and change the second setting; it is not in the episode.
            </Text>
            <Button
              size="xs"
              colorPalette="pine"
              onClick={() =>
                treatment.takeSecond(chain, `Took the second setting for ${track.name}`)
              }
            >
              Use it
            </Button>
          </HStack>
        )}
        {error && !sound && <Text color="trouble">{error.message}</Text>}
        {sound ? (
          <Measured sound={sound} />
        ) : (
          <Text mb="1" fontSize="13px" color="quiet">
            Listening to the voice …
          </Text>
        )}
        <Graph treatment={treatment} sound={sound} name={track.name} />
        {sound ? (
          <Helps sound={sound} chain={chain} set={treatment.set} />
        ) : (
          <Box minH={`${HELPS_PX}px`} mb="4">
            <Heading>What would help</Heading>
          </Box>
        )}
        <Heading>Compressor</Heading>
        <Dynamics episode={episode} track={track.id} treatment={treatment} />
      </Box>
      <Panel>
        <Heading>Chain of {track.name}</Heading>
        <Text fontSize="13px" color="quiet">
          In this order. All is off until you switch it on.
        </Text>
        <Steps
          treatment={treatment}
          name={track.name}
          sound={sound}
          beingMade={!(settled && sound?.cleaned)}
        />
        <Chains
          chain={chain}
          set={(next, name) => treatment.set(next, `${name} for ${track.name}`)}
        />
      </Panel>
    </Flex>
  );
}

function Measured({ sound }: { sound: Schemas["SoundView"] }) {
  const apart =
    sound.voice_dbfs !== null && sound.room_dbfs !== null
      ? sound.voice_dbfs - sound.room_dbfs
      : null;
  return (
    <HStack gap="5" mb="1" fontSize="13px" data-testid="measured" flexWrap="wrap">
      <Text>
        Voice{" "}
        <b>
          <Figure value={sound.voice_dbfs} unit="dBFS" digits={0} />
        </b>
      </Text>
      <Text>
        <Meaning of="Room" /> <b>{figure(sound.room_dbfs, "dBFS", 0)}</b>
        {apart !== null && `, ${apart.toFixed(0)} dB under it`}
      </Text>
      <Text>
        Peaks <b>{figure(sound.peaks_dbfs, "dBFS", 0)}</b>
      </Text>
      {sound.notes.map((note) => (
        <Text key={note} color="trouble">
          {note}
        </Text>
      ))}
    </HStack>
  );
}

interface HelpsProps {
  sound: Schemas["SoundView"];
  /** What is set now, of which the suggestions may not know yet. */
  chain: Schemas["Chain-Output"];
  set: (chain: Schemas["Chain-Output"], name: string) => void;
}

type Chain = Schemas["Chain-Output"];
type Suggestion = Schemas["Suggestion"];
/** Steps that are a part of the chain by themselves. */
type PartOfChain = Exclude<Suggestion["step"], "whistle" | "eq">;

/** The band that a suggestion adds, where that is what it does. */
const bandOf = ({ step, chain }: Suggestion) =>
  step === "whistle" || step === "eq" ? chain.bands.at(-1) : undefined;

/** A chain with one suggestion taken, and nothing else of the chain that it was made for. */
function withStep(chain: Chain, one: Suggestion): Chain {
  const band = bandOf(one);
  if (band) return { ...chain, bands: [...chain.bands, band] };
  return { ...chain, [one.step]: one.chain[one.step as PartOfChain] };
}

/** Whether a suggestion is in the chain already, which the server may not have been asked about. */
function isTaken(chain: Chain, one: Suggestion): boolean {
  const band = bandOf(one);
  if (band) return chain.bands.some(({ kind, hz }) => kind === band.kind && hz === band.hz);
  return chain[one.step as PartOfChain].on;
}

function Helps({ sound, chain, set }: HelpsProps) {
  const open = sound.suggestions.filter((one) => !isTaken(chain, one));
  return (
    <Box mb="4" data-testid="helps">
      <Heading>What would help</Heading>
      {!open.length && <Text color="quiet">Nothing more: this voice needs no other step.</Text>}
      {open.map((one) => (
        <Flex
          key={one.title}
          align="center"
          gap="3"
          py="1.5"
          borderBottomWidth="1px"
          borderColor="rule"
        >
          <Box flex="1" minW="0">
            <Text fontWeight="700">{one.title}</Text>
            <Text fontSize="13px" color="quiet">
              {one.reason}
            </Text>
          </Box>
          <Button
            size="xs"
            colorPalette="pine"
            variant="outline"
            aria-label={`Do it: ${one.title}`}
            onClick={() => set(withStep(chain, one), one.title)}
          >
            Do it
          </Button>
        </Flex>
      ))}
    </Box>
  );
}

function Chains({ chain, set }: { chain: Schemas["Chain-Output"]; set: HelpsProps["set"] }) {
  const queries = useQueryClient();
  const { data } = useChains();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const again = () => queries.invalidateQueries({ queryKey: ["chains"] });
  const path = (id: number) => ({ params: { path: { chain_id: id } } });
  const keep = () =>
    take(client.POST("/api/chains", { body: { name: name.trim(), chain } }))
      .then(() => {
        setOpen(false);
        setName("");
        return again();
      })
      .catch(complain);
  const remove = async (id: number, called: string) => {
    await client.DELETE("/api/chains/{chain_id}", path(id));
    await again();
    announce(
      `Took “${called}” away.`,
      () => void client.POST("/api/chains/{chain_id}/back", path(id)).then(again),
    );
  };
  return (
    <Box pt="3">
      <Flex align="center" mb="1">
        <Text fontWeight="700" flex="1">
          Saved chains
        </Text>
        <Button size="2xs" variant="outline" onClick={() => setOpen(true)}>
          Save this chain
        </Button>
      </Flex>
      {!data?.length && (
        <Text fontSize="12px" color="quiet">
          Save a chain under a name, to use it for other voices and episodes.
        </Text>
      )}
      {data?.map((one) => (
        <Flex key={one.id} align="center" gap="1" py="0.5">
          <Text flex="1" truncate>
            {one.name}
          </Text>
          <Button size="2xs" variant="outline" onClick={() => set(one.chain, `Used “${one.name}”`)}>
            Use
          </Button>
          <Button
            size="2xs"
            variant="ghost"
            color="quiet"
            aria-label={`Remove ${one.name}`}
            onClick={() => void remove(one.id, one.name)}
          >
            Remove
          </Button>
        </Flex>
      ))}
      <Ask
        title="Keep this chain"
        open={open}
        onClose={() => setOpen(false)}
        foot={
          <>
            <Button variant="ghost" onClick={() => setOpen(false)}>
              Cancel
            </Button>
            <Button colorPalette="pine" disabled={!name.trim()} onClick={() => void keep()}>
              Keep it
            </Button>
          </>
        }
      >
        <Input
          aria-label="Name of the chain"
          placeholder="My kitchen, big microphone"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && name.trim() && keep()}
        />
      </Ask>
    </Box>
  );
}

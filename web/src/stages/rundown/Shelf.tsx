/** The shelf of sounds of the show: listen to them, and put them where they belong. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { Play, Square } from "lucide-react";
import { type DragEvent, useEffect, useRef, useState } from "react";
import type { Episode } from "../../api/client";
import { send } from "../../api/upload";
import { FilePick } from "../../theme/FilePick";
import { TextField } from "../../theme/fields/TextField";
import { TimeField } from "../../theme/fields/TimeField";
import { named, Pick } from "../../theme/Pick";
import { complain } from "../../theme/toaster";
import { clock, figure } from "../../time";
import { Card, Heading } from "../Panel";
import { ACCEPT } from "../sound-files";
import {
  DRAGGED_SOUND,
  HOLDS,
  type Holding,
  type ShelfSound,
  SOUND_KINDS,
  USUAL,
  useAddShipped,
  useChangeSound,
  useShelf,
} from "./sounds";

interface Props {
  episode: Episode;
  /** The part that sounds are placed at. */
  part: string | undefined;
  last: boolean;
  onPlace: (sound: ShelfSound, holding: Holding) => void;
}

export function Shelf({ episode, part, last, onPlace }: Props) {
  const { data: sounds = [] } = useShelf(episode);
  const shipped = useAddShipped(episode);
  const [open, setOpen] = useState<string | null>(null);
  const [heard, listen] = useListening();
  const add = (files: Iterable<File>) =>
    void send(episode.id, [...files], complain, { shelf: "other" });
  return (
    <>
      <Heading>Sounds</Heading>
      <Card
        data-testid="shelf-of-sounds"
        onDragOver={(event: DragEvent) => {
          if (!event.dataTransfer.types.includes("Files")) return;
          event.preventDefault();
          event.stopPropagation();
        }}
        onDrop={(event: DragEvent) => {
          if (!event.dataTransfer.files.length) return;
          event.preventDefault();
          event.stopPropagation();
          add(event.dataTransfer.files);
        }}
      >
        {sounds.length === 0 && (
          <Text fontSize="13px" color="quiet" mb="2">
            Music and other sounds that this show uses again and again. Drop a file here, or begin
            with the three that come with Air Trim.
          </Text>
        )}
        {sounds.map((sound) => (
          <Box key={sound.id} data-sound={sound.id}>
            <Flex
              align="center"
              gap="2"
              py="1"
              draggable
              cursor="grab"
              title="Drag it onto a part"
              onDragStart={(event: DragEvent) => {
                event.dataTransfer.setData(DRAGGED_SOUND, sound.id);
                event.dataTransfer.effectAllowed = "copy";
              }}
            >
              <Button
                size="2xs"
                variant="ghost"
                aria-label={heard === sound.id ? "Stop" : `Listen to ${sound.name}`}
                onClick={() => listen(sound)}
              >
                {heard === sound.id ? <Square size={12} /> : <Play size={12} />}
              </Button>
              <Box
                asChild
                flex="1"
                minW="0"
                textAlign="left"
                cursor="pointer"
                rounded="6px"
                px="1"
                _hover={{ bg: "wash" }}
              >
                <button
                  type="button"
                  aria-expanded={open === sound.id}
                  onClick={() => setOpen(open === sound.id ? null : sound.id)}
                >
                  <Text as="span" fontWeight="700">
                    {sound.name}
                  </Text>
                  <Text as="span" color="quiet" fontSize="12px">
                    {" "}
                    {SOUND_KINDS[sound.kind].toLowerCase()}, {clock(sound.end - sound.start, 0)},{" "}
                    {figure(sound.lufs, "LUFS")}
                  </Text>
                </button>
              </Box>
            </Flex>
            {open === sound.id && (
              <Opened
                episode={episode}
                sound={sound}
                part={part}
                last={last}
                onPlace={(holding) => onPlace(sound, holding)}
              />
            )}
          </Box>
        ))}
        <Flex gap="2" mt="2" wrap="wrap">
          <FilePick accept={ACCEPT} testId="add-sound" several onPick={add}>
            {(open) => (
              <Button size="xs" variant="outline" onClick={open}>
                Add a file
              </Button>
            )}
          </FilePick>
          {sounds.length === 0 && (
            <Button
              size="xs"
              colorPalette="pine"
              loading={shipped.isPending}
              onClick={() => shipped.mutate(undefined)}
            >
              Take the three
            </Button>
          )}
        </Flex>
      </Card>
    </>
  );
}

/** Keys that play a sound in while recording. */
const KEYS = [
  ["0", "Not while recording"],
  ...Array.from(
    { length: 9 },
    (_, i) => [String(i + 1), `Key ${i + 1} while recording`] as [string, string],
  ),
] as [string, string][];

interface OpenedProps {
  episode: Episode;
  sound: ShelfSound;
  part: string | undefined;
  last: boolean;
  onPlace: (holding: Holding) => void;
}

/** Where a sound can go, and what is known of it. */
function Opened({ episode, sound, part, last, onPlace }: OpenedProps) {
  const change = useChangeSound(episode);
  const set = (body: Parameters<typeof change.mutate>[0]) => change.mutate(body);
  return (
    <Box pb="2" pl="2" borderLeftWidth="2px" borderColor="rule" ml="2" mb="1">
      <Text fontSize="12px" color="quiet">
        {part ? `Place it at “${part}”:` : "Choose a part, and place it there:"}
      </Text>
      <Flex gap="1" wrap="wrap" my="1">
        {named(HOLDS).map(([holding, says]) => (
          <Button
            key={holding}
            size="2xs"
            variant={holding === USUAL[sound.kind] ? "solid" : "outline"}
            colorPalette={holding === USUAL[sound.kind] ? "pine" : undefined}
            disabled={(!part && holding !== "time") || (holding === "between" && last)}
            onClick={() => onPlace(holding)}
          >
            {holding === "time" ? "At the playhead" : says}
          </Button>
        ))}
      </Flex>
      <Flex gap="1" align="center">
        <TextField
          size="2xs"
          label="Name of the sound"
          value={sound.name}
          onSet={(name) => set({ id: sound.id, name })}
        />
        <Pick
          name="What it is for"
          size="xs"
          w="104px"
          flexShrink="0"
          value={sound.kind}
          options={named(SOUND_KINDS)}
          onPick={(kind) => set({ id: sound.id, kind })}
        />
      </Flex>
      <Flex gap="1" align="center" mt="1" fontSize="12px">
        From
        <TimeField
          label="Start of the sound"
          at={sound.start}
          onSet={(start) => set({ id: sound.id, start })}
        />
        to
        <TimeField
          label="End of the sound"
          at={sound.end}
          onSet={(end) => set({ id: sound.id, end })}
        />
      </Flex>
      <Box mt="1">
        <TextField
          size="2xs"
          label="Credit"
          placeholder="Credit: who made it"
          optional
          value={sound.credit}
          onSet={(credit) => set({ id: sound.id, credit })}
        />
      </Box>
      <Flex gap="1" align="center" mt="1">
        <Pick
          name="Key while recording"
          size="xs"
          w="176px"
          flexShrink="0"
          value={String(sound.at_key ?? 0)}
          options={KEYS}
          onPick={(key) => set({ id: sound.id, at_key: Number(key) })}
        />
        <Button
          size="2xs"
          variant="ghost"
          color="quiet"
          title="Episodes that use it keep it"
          onClick={() => set({ id: sound.id, deleted: true })}
        >
          Remove
        </Button>
      </Flex>
    </Box>
  );
}

/** Which sound is being listened to, and how to begin and end it. */
function useListening() {
  const [heard, setHeard] = useState<string | null>(null);
  const player = useRef<HTMLAudioElement | null>(null);
  const stop = () => {
    player.current?.pause();
    player.current = null;
    setHeard(null);
  };
  useEffect(() => () => player.current?.pause(), []);
  const listen = (sound: ShelfSound) => {
    const again = heard === sound.id;
    stop();
    if (again) return;
    const span = `${sound.start / 48_000},${sound.end / 48_000}`;
    const audio = new Audio(`/api/sounds/${sound.id}/audio#t=${span}`);
    audio.addEventListener("pause", () => player.current === audio && stop());
    player.current = audio;
    setHeard(sound.id);
    audio.play().catch(complain);
  };
  return [heard, listen] as const;
}

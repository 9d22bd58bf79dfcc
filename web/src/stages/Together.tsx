/** Several files at once: how they belong together, shown before anything is placed. */
import { Box, Button, Flex, RadioGroup, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { create } from "zustand";
import { type Episode, RATE } from "../api/client";
import { type AsPart, send, type Where } from "../api/upload";
import { Ask } from "../theme/Ask";
import { complain } from "../theme/toaster";
import { clock } from "../time";

type To = Where | AsPart | undefined;
type Way = "beside" | "after" | "parts";

interface Waiting {
  episode: number;
  files: File[];
  where: To;
}

const useWaiting = create<{ waiting: Waiting | null }>(() => ({ waiting: null }));
const close = () => useWaiting.setState({ waiting: null });

/** Add files where they are meant to go; of several it is asked first how they belong together. */
export function addFiles(episode: number, files: File[], where?: To) {
  const asParts = where && "part" in where;
  if (files.length < 2 || asParts) return void send(episode, files, complain, where);
  const inOrder = files.toSorted((a, b) =>
    a.name.localeCompare(b.name, undefined, { numeric: true }),
  );
  useWaiting.setState({ waiting: { episode, files: inOrder, where } });
}

const WAYS: Record<Way, { says: string; about: (names: string[]) => string }> = {
  beside: {
    says: "Side by side",
    about: (names) => `One talk, a microphone each: tracks ${list(names)}, from the same moment.`,
  },
  after: {
    says: "One after another",
    about: (names) => `On one track: ${names.join(", then ")}.`,
  },
  parts: {
    says: "As parts",
    about: (names) => `Each a part of its own on Rundown: ${names.join(", then ")}.`,
  },
};

const list = (names: string[]) => `${names.slice(0, -1).join(", ")} and ${names.at(-1)}`;
const stem = (file: File) => file.name.replace(/\.[^.]+$/, "");

export function Together({ episode }: { episode: Episode }) {
  const waiting = useWaiting((w) => w.waiting);
  if (waiting?.episode !== episode.id) return null;
  return <Plan key={waiting.files.map(stem).join()} episode={episode} waiting={waiting} />;
}

function Plan({ episode, waiting }: { episode: Episode; waiting: Waiting }) {
  const { files, where } = waiting;
  const lengths = useLengths(files);
  const [chosen, setChosen] = useState<Way | null>(null);
  // Microphones of one talk ran for about as long.
  const known = lengths.filter((seconds) => seconds !== null);
  const alike =
    known.length === files.length &&
    Math.max(...known) - Math.min(...known) <= Math.max(30, 0.05 * Math.max(...known));
  const way = chosen ?? (alike ? "beside" : "after");
  const names = files.map(stem);
  const add = () => {
    close();
    const at = where && "at" in where ? where.at : episode.frames;
    const to: To =
      way === "beside" ? { at, insert: false } : way === "parts" ? { part: true } : where;
    void send(episode.id, files, complain, to);
  };
  return (
    <Ask
      title={`How do these ${files.length} files belong together?`}
      open
      size="md"
      onClose={close}
      foot={
        <>
          <Button variant="outline" onClick={close}>
            Add nothing
          </Button>
          <Button colorPalette="pine" onClick={add}>
            Add them
          </Button>
        </>
      }
    >
      <Box data-testid="together">
        {files.map((file, place) => (
          <Flex key={file.name} py="1" borderBottomWidth="1px" borderColor="rule" gap="3">
            <Text flex="1" minW="0" truncate>
              {file.name}
            </Text>
            <Text color="quiet" fontSize="13px">
              {lengths[place] == null ? "" : clock((lengths[place] ?? 0) * RATE, 0)}
            </Text>
          </Flex>
        ))}
        <RadioGroup.Root
          mt="4"
          colorPalette="pine"
          value={way}
          aria-label="How they belong together"
          onValueChange={({ value }) => setChosen(value as Way)}
        >
          {(Object.keys(WAYS) as Way[]).map((one) => (
            <RadioGroup.Item key={one} value={one} display="flex" alignItems="start" mb="2">
              <RadioGroup.ItemHiddenInput />
              <RadioGroup.ItemIndicator mt="1" />
              <Box>
                <RadioGroup.ItemText fontWeight="700">{WAYS[one].says}</RadioGroup.ItemText>
                <Text fontSize="13px" color="quiet">
                  {WAYS[one].about(names)}
                </Text>
              </Box>
            </RadioGroup.Item>
          ))}
        </RadioGroup.Root>
      </Box>
    </Ask>
  );
}

/** How long files are, in seconds, as the browser reads them; null where it does not. */
function useLengths(files: File[]): (number | null)[] {
  const [lengths, setLengths] = useState<(number | null)[]>(() => files.map(() => null));
  useEffect(() => {
    const readers = files.map((file, place) => {
      const address = URL.createObjectURL(file);
      const audio = new Audio();
      audio.preload = "metadata";
      audio.onloadedmetadata = () => {
        const seconds = Number.isFinite(audio.duration) ? audio.duration : null;
        setLengths((now) => now.with(place, seconds));
      };
      audio.src = address;
      return () => {
        audio.removeAttribute("src");
        URL.revokeObjectURL(address);
      };
    });
    return () => {
      for (const end of readers) end();
    };
  }, [files]);
  return lengths;
}

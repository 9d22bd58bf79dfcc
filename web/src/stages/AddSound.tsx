/** Bringing recordings in: by the button, or by dropping them anywhere on the stage. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import { type DragEvent, type ReactNode, useEffect, useState } from "react";
import type { Episode } from "../api/client";
import { type AsPart, useSending, type Where } from "../api/upload";
import { under } from "../page/usePointer";
import { FilePick } from "../theme/FilePick";
import { ProgressBar } from "../theme/ProgressBar";
import { clock } from "../time";
import { ACCEPT } from "./sound-files";
import { addFiles, Together } from "./Together";

interface AddProps {
  episode: number;
  main?: boolean;
  /** Each file becomes a part of its own. */
  asParts?: boolean;
}

/** A button that opens the file chooser. */
export function AddButton({ episode, main, asParts }: AddProps) {
  return (
    <FilePick
      accept={ACCEPT}
      testId="add-file"
      several
      onPick={(files) => addFiles(episode, files, asParts ? { part: true } : undefined)}
    >
      {(open) => (
        <Button
          size={main ? "md" : "sm"}
          colorPalette="pine"
          variant={main ? "solid" : "outline"}
          onClick={open}
        >
          Add a recording
        </Button>
      )}
    </FilePick>
  );
}

/** An area that takes dropped files and shows what is on its way. */
export function DropArea({ episode: shown, children }: { episode: Episode; children: ReactNode }) {
  const episode = shown.id;
  const [over, setOver] = useState<Place | null>(null);
  const sending = useSending((s) => s.list).filter((s) => s.episode === episode);
  useEffect(() => {
    const paste = ({ clipboardData }: ClipboardEvent) => {
      const files = [...(clipboardData?.files ?? [])];
      if (files.length) addFiles(episode, files);
    };
    addEventListener("paste", paste);
    return () => removeEventListener("paste", paste);
  }, [episode]);
  return (
    <Flex
      as="main"
      direction="column"
      flex="1"
      minH="0"
      minW="0"
      position="relative"
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes("Files")) return;
        event.preventDefault();
        setOver(placeOf(shown, event));
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(null);
      }}
      onDrop={(event) => {
        event.preventDefault();
        setOver(null);
        const { where } = placeOf(shown, event);
        addFiles(episode, [...event.dataTransfer.files], where);
      }}
    >
      {sending.map((s) => (
        <HStack key={s.id} px="5" py="2" bg="wash" borderBottomWidth="1px" borderColor="rule">
          <Text fontSize="13px" truncate maxW="300px">
            Sending “{s.name}”
          </Text>
          <ProgressBar value={s.done} size="sm" flex="1" />
          <Text fontSize="13px" w="44px" textAlign="right">
            {Math.round(s.done * 100)} %
          </Text>
          <Button size="xs" variant="outline" onClick={s.cancel}>
            Cancel
          </Button>
        </HStack>
      ))}
      {children}
      <Together episode={shown} />
      {over && (
        <Flex
          position="absolute"
          top="8px"
          left="50%"
          transform="translateX(-50%)"
          px="6"
          py="3"
          bg="raised"
          borderWidth="2px"
          borderStyle="dashed"
          borderColor="pine.solid"
          borderRadius="8px"
          pointerEvents="none"
          zIndex="10"
          data-testid="drop"
        >
          <Box textAlign="center">
            <Text fontFamily="heading" fontSize="18px">
              Let go to add it
            </Text>
            <Text color="quiet" fontSize="13px">
              {over.says}
            </Text>
          </Box>
        </Flex>
      )}
    </Flex>
  );
}

interface Place {
  says: string;
  where?: Where | AsPart;
}

/** Where what is dropped would go: between the words pointed at, or beside them; elsewhere, after
 * what is there. */
function placeOf(episode: Episode, event: DragEvent): Place {
  if ((event.target as HTMLElement).closest("[data-takes-parts]")) {
    return { says: "It becomes a part of its own, at the end.", where: { part: true } };
  }
  const here = under(event.clientX, event.clientY, episode.frames);
  if (!here) return { says: "It is placed after what is there." };
  const at = here.span.start;
  const track = episode.tracks.find((t) => t.id === here.track);
  if (event.shiftKey || !track) {
    return {
      says: `On a track of its own, beginning at ${clock(at)}; nothing moves.`,
      where: { at, insert: false },
    };
  }
  return {
    says: `Into ${track.name}, between words near ${clock(at)}; what is later makes room. Hold Shift for a track of its own.`,
    where: { at, insert: true, track: track.name },
  };
}

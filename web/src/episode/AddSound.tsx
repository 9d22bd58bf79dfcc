/** Bringing recordings in: by the button, or by dropping them anywhere on the stage. */
import { Box, Button, Flex, HStack, Progress, Text } from "@chakra-ui/react";
import { type ReactNode, useRef, useState } from "react";
import { send, useSending } from "../api/upload";
import { complain } from "../theme/toaster";

const ACCEPT = "audio/*,.wav,.flac,.mp3,.m4a,.aac,.ogg,.opus,.aif,.aiff";

/** A button that opens the file chooser. */
export function AddButton({ episode, main }: { episode: number; main?: boolean }) {
  const field = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button
        size={main ? "md" : "sm"}
        colorPalette="pine"
        variant={main ? "solid" : "outline"}
        onClick={() => field.current?.click()}
      >
        Add a recording
      </Button>
      <input
        ref={field}
        type="file"
        multiple
        hidden
        accept={ACCEPT}
        data-testid="add-file"
        onChange={(event) => {
          void send(episode, [...(event.target.files ?? [])], complain);
          event.target.value = "";
        }}
      />
    </>
  );
}

/** An area that takes dropped files and shows what is on its way. */
export function DropArea({ episode, children }: { episode: number; children: ReactNode }) {
  const [over, setOver] = useState(false);
  const sending = useSending((s) => s.list).filter((s) => s.episode === episode);
  return (
    <Flex
      direction="column"
      flex="1"
      minH="0"
      minW="0"
      position="relative"
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes("Files")) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      }}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        void send(episode, [...event.dataTransfer.files], complain);
      }}
    >
      {sending.map((s) => (
        <HStack key={s.id} px="5" py="2" bg="wash" borderBottomWidth="1px" borderColor="rule">
          <Text fontSize="13px" truncate maxW="300px">
            Sending “{s.name}”
          </Text>
          <Progress.Root value={s.done * 100} size="sm" colorPalette="pine" flex="1">
            <Progress.Track>
              <Progress.Range />
            </Progress.Track>
          </Progress.Root>
          <Text fontSize="13px" w="44px" textAlign="right">
            {Math.round(s.done * 100)} %
          </Text>
          <Button size="xs" variant="outline" onClick={s.cancel}>
            Cancel
          </Button>
        </HStack>
      ))}
      {children}
      {over && (
        <Flex
          position="absolute"
          inset="8px"
          align="center"
          justify="center"
          bg="paper"
          opacity="0.94"
          borderWidth="2px"
          borderStyle="dashed"
          borderColor="pine.solid"
          borderRadius="8px"
          pointerEvents="none"
          zIndex="10"
        >
          <Box textAlign="center">
            <Text fontFamily="heading" fontSize="22px">
              Let go to add it
            </Text>
            <Text color="quiet">It is placed after what is there.</Text>
          </Box>
        </Flex>
      )}
    </Flex>
  );
}

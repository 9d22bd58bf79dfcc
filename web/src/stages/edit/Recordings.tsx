/** The recordings of the episode, with the room tone of each. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import { type Episode, RATE, takeBytes } from "../../api/client";
import { useEdit, useRoomTone } from "../../api/queries";
import { playTake } from "../../playback/player";
import { FilePick } from "../../theme/FilePick";
import { announce, complain } from "../../theme/toaster";
import { clock, figure, seconds } from "../../time";
import { AddButton } from "../AddSound";
import { Heading } from "../Panel";
import { WriteAnew } from "./WriteAnew";

/** In so short a recording, five seconds, no room tone is missed. */
const SHORT = 5 * RATE;

/** The room tone of a recording: found or chosen, to be heard, or chosen anew. */
function RoomTone({ episode, take }: { episode: Episode; take: Episode["takes"][number] }) {
  const { data: tone } = useRoomTone(episode.id, episode.revision, take.id, take.transcribed);
  const edit = useEdit(episode.id);
  if (!tone || take.music || (!tone.frames && take.frames < SHORT)) return null;
  const leave = () => edit.mutate({ kind: "find_room_tone", take: take.id });
  return (
    <Flex
      data-testid="room-tone"
      fontSize="12px"
      color="quiet"
      align="center"
      justify="space-between"
      gap="2"
    >
      {tone.frames ? (
        <>
          <Text>
            Room tone: {seconds(tone.frames)} at {clock(tone.start)},{" "}
            {figure(tone.level_dbfs, "dBFS", 0)}
            {tone.chosen && ", chosen by you"}
          </Text>
          <HStack gap="0" flexShrink="0">
            <Button
              size="2xs"
              variant="ghost"
              onClick={() => playTake(take.id, tone.start, tone.frames)}
            >
              Hear it
            </Button>
            {tone.chosen && (
              <Button size="2xs" variant="ghost" onClick={leave}>
                Let it be found
              </Button>
            )}
          </HStack>
        </>
      ) : (
        "No half second without words was found for room tone. Select one to choose it."
      )}
    </Flex>
  );
}

/** Words from a transcript that was made elsewhere, and the words of a recording as a file. */
function Transcript({ take }: { take: Episode["takes"][number] }) {
  const attach = async (file: File) => {
    const name = encodeURIComponent(file.name);
    await takeBytes("PUT", `/api/takes/${take.id}/transcript?name=${name}`, file);
    announce("The transcript is being put in its place under the sound.");
  };
  return (
    <>
      <FilePick
        accept=".vtt,.srt,.json,.txt"
        label={`Transcript of ${take.name}`}
        onPick={([file]) => file && void attach(file).catch(complain)}
      >
        {(open) => (
          <Button
            size="2xs"
            variant="ghost"
            px="0"
            title="WebVTT, SRT, JSON or plain text; its words take the place of those recognised"
            onClick={open}
          >
            Words from a transcript…
          </Button>
        )}
      </FilePick>
      {take.reworded && (
        <Button
          size="2xs"
          variant="ghost"
          onClick={() =>
            void takeBytes("POST", `/api/takes/${take.id}/words/back`, "").catch(complain)
          }
        >
          Its words of before
        </Button>
      )}
    </>
  );
}

export function Recordings({ episode }: { episode: Episode }) {
  return (
    <Box mb="5">
      <Heading>Recordings</Heading>
      {episode.takes.map((take) => (
        <Box key={take.id} py="1.5" borderBottomWidth="1px" borderColor="rule">
          <Flex justify="space-between" gap="3">
            <Text truncate title={take.name}>
              {take.name}
            </Text>
            <Text color="quiet" whiteSpace="nowrap">
              {clock(take.frames)}
            </Text>
          </Flex>
          {take.notice && (
            <Text fontSize="12px" color="trouble">
              {take.notice}
            </Text>
          )}
          {take.damaged && (
            <Text fontSize="12px" color="trouble">
              It is damaged on the disk: parts of it may be silent.
            </Text>
          )}
          {take.missing && (
            <Text fontSize="12px" color="trouble">
              Its sound is missing from the disk. Where it stands, nothing can be played; put the
              file back, or cut it out.
            </Text>
          )}
          <RoomTone episode={episode} take={take} />
          {!take.music && <WriteAnew take={take} />}
          {!take.music && <Transcript take={take} />}
          {!take.transcribed && (
            <Text fontSize="12px" color="quiet">
              Its words are not written down yet.
            </Text>
          )}
        </Box>
      ))}
      <Box mt="3">
        <AddButton episode={episode.id} />
      </Box>
    </Box>
  );
}

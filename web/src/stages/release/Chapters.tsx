/** The chapters of the released file: set from the parts, by hand, or where one listens. */
import { Box, Button, Flex, IconButton, Text } from "@chakra-ui/react";
import { ImagePlus, Link2, Play, X } from "lucide-react";
import { useState } from "react";
import { client, type Episode, type Marker, take, takeBytes } from "../../api/client";
import { useEdit } from "../../api/queries";
import { play, position, positionRevision } from "../../playback/player";
import { FilePick } from "../../theme/FilePick";
import { TextField } from "../../theme/fields/TextField";
import { TimeField } from "../../theme/fields/TimeField";
import { complain } from "../../theme/toaster";
import { Card, Heading } from "../Panel";
import { Links } from "./Links";

export function Chapters({ episode }: { episode: Episode }) {
  const edit = useEdit(episode.id);
  const chapters = episode.markers.filter((marker) => marker.kind === "chapter");
  const fromParts = () =>
    edit.mutate({
      kind: "set_chapters",
      chapters: episode.sections.map(({ at, name }) => ({ at, title: name })),
    });
  const propose = () =>
    take(
      client.GET("/api/episodes/{episode_id}/proposed-chapters", {
        params: { path: { episode_id: episode.id }, query: { revision: episode.revision } },
      }),
    )
      .then((proposed) =>
        edit.mutate({
          kind: "set_chapters",
          chapters: proposed.map(({ at, title }) => ({ at, title: title.slice(0, 120) })),
        }),
      )
      .catch(complain);
  const here = () =>
    edit.mutate(
      { kind: "add_marker", marks: "chapter", at: Math.round(position()), name: "" },
      { on: positionRevision() },
    );
  return (
    <Box data-testid="chapters">
      <Heading>Chapters</Heading>
      <Card>
        <Text fontSize="13px" color="quiet" mb="2">
          Apps list them, and listeners go to them. They stay with the talk whatever you edit.
        </Text>
        {chapters.map((chapter) => (
          <Chapter key={chapter.id} episode={episode} chapter={chapter} />
        ))}
        <Flex gap="1.5" wrap="wrap" mt={chapters.length ? "2" : "0"}>
          <Button
            size="xs"
            variant={chapters.length ? "outline" : "solid"}
            colorPalette={chapters.length ? undefined : "pine"}
            disabled={!episode.frames}
            title="One for each part of the Rundown, in place of those there are"
            onClick={fromParts}
          >
            From the parts
          </Button>
          <Button
            size="xs"
            variant="outline"
            disabled={!episode.frames}
            title="At the playhead"
            onClick={here}
          >
            Add one here
          </Button>
          <Button
            size="xs"
            variant="outline"
            disabled={!episode.frames}
            title="By the parts, and within long ones where the talk turns to something else"
            onClick={() => void propose()}
          >
            Propose
          </Button>
        </Flex>
        {chapters.length > 0 && (
          <Box mt="3">
            <Links
              forms={{ json: "JSON chapters", txt: "As times" }}
              address={(form) =>
                `/api/episodes/${episode.id}/chapters?revision=${episode.revision}&form=${form}`
              }
            />
          </Box>
        )}
      </Card>
    </Box>
  );
}

function Chapter({ episode, chapter }: { episode: Episode; chapter: Marker }) {
  const edit = useEdit(episode.id);
  const [opened, setOpened] = useState(false);
  const more = opened || Boolean(chapter.link || chapter.artwork);
  const change = (what: { at?: number; name?: string; link?: string; artwork?: string }) =>
    edit.mutate({ kind: "change_marker", marker: chapter.id, ...what });
  const picture = (file: File) =>
    takeBytes<{ artwork: string }>("POST", "/api/artwork?chapter=true", file)
      .then(({ artwork }) => change({ artwork }))
      .catch(complain);
  const called = chapter.name || "this chapter";
  return (
    <Box py="1.5" borderBottomWidth="1px" borderColor="rule" data-chapter={chapter.at}>
      <Flex gap="1" align="center">
        <TimeField
          w="56px"
          digits={1}
          label={`Where ${called} begins`}
          at={chapter.at}
          onSet={(at) => change({ at })}
        />
        <TextField
          size="2xs"
          flex="1"
          minW="0"
          px="1"
          optional
          fontWeight="700"
          label="Title of the chapter"
          placeholder="Title"
          value={chapter.name}
          onSet={(name) => change({ name })}
        />
        <IconButton
          size="2xs"
          variant="ghost"
          aria-label={`Listen from ${called}`}
          onClick={() => play(chapter.at)}
        >
          <Play size={12} />
        </IconButton>
        {!more && (
          <IconButton
            size="2xs"
            variant="ghost"
            color="quiet"
            aria-label={`A link or a picture for ${called}`}
            onClick={() => setOpened(true)}
          >
            <Link2 size={13} />
          </IconButton>
        )}
        <IconButton
          size="2xs"
          variant="ghost"
          color="quiet"
          aria-label={`Take ${called} away`}
          onClick={() => edit.mutate({ kind: "remove_marker", marker: chapter.id })}
        >
          <X size={13} />
        </IconButton>
      </Flex>
      <Flex gap="1" align="center" mt="1" display={more ? "flex" : "none"}>
        <TextField
          size="2xs"
          flex="1"
          minW="0"
          px="1"
          optional
          maxLength={2000}
          color="quiet"
          label={`Link of ${called}`}
          placeholder="https://…"
          value={chapter.link}
          onSet={(link) => change({ link })}
        />
        {chapter.artwork ? (
          <button
            type="button"
            title="Its picture. Press to take it away."
            aria-label={`Take the picture of ${called} away`}
            onClick={() => change({ artwork: "" })}
          >
            <img src={`/api/artwork/${chapter.artwork}`} alt="" width={26} height={26} />
          </button>
        ) : (
          <FilePick
            accept="image/jpeg,image/png"
            testId="chapter-picture"
            onPick={([file]) => file && void picture(file)}
          >
            {(open) => (
              <IconButton
                size="2xs"
                variant="ghost"
                color="quiet"
                aria-label={`Give ${called} a picture`}
                onClick={open}
              >
                <ImagePlus size={14} />
              </IconButton>
            )}
          </FilePick>
        )}
      </Flex>
    </Box>
  );
}

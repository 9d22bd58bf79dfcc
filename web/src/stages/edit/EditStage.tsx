/** Edit: the Page, and beside it what is selected, what was done, and what was cut. */
import { Box, Button, Flex, HStack, Input, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Episode, Word } from "../../api/client";
import { useEdit, useHistory } from "../../api/queries";
import { AddButton } from "../../episode/AddSound";
import { cutOf } from "../../episode/keys";
import { fetchWords } from "../../page/data";
import { Page } from "../../page/Page";
import { holds, type Span, useView } from "../../page/view";
import { place, play, position } from "../../playback/player";
import { clock, seconds } from "../../time";
import { Card, Heading, Panel } from "../Panel";
import { landOverSelection } from "../record/LandingChoice";

export function EditStage({ episode }: { episode: Episode }) {
  if (episode.frames === 0) return <Empty episode={episode} />;
  return (
    <Flex flex="1" minH="0">
      <Page episode={episode} />
      <Panel>
        <Selected episode={episode} />
        <Recordings episode={episode} />
        <History episode={episode} />
      </Panel>
    </Flex>
  );
}

function Empty({ episode }: { episode: Episode }) {
  const cutAway = episode.cuts > 0;
  return (
    <Flex flex="1" direction="column" align="center" justify="center" gap="3" px="8">
      <Text fontFamily="heading" fontSize="26px" fontWeight="700">
        {cutAway ? "Everything has been cut" : "This Page is still blank"}
      </Text>
      <Text color="quiet" maxW="440px" textAlign="center">
        {cutAway
          ? "Undo brings it back. Or add another recording."
          : "Drop a recording here, or choose one. Air Trim draws its sound, writes its words under it, and never changes the file you gave it."}
      </Text>
      <AddButton episode={episode.id} main />
      <Text fontSize="13px" color="quiet">
        WAV, FLAC, MP3, M4A, OGG, Opus or AIFF, mono or stereo
      </Text>
    </Flex>
  );
}

function Selected({ episode }: { episode: Episode }) {
  const selection = useView((v) => v.selection);
  const startSection = useSectionStart(episode);
  return (
    <>
      <Heading>Selection</Heading>
      {selection ? (
        <SelectedSpan episode={episode} selection={selection} />
      ) : (
        <Card data-testid="selected">
          <Text color="quiet" fontSize="13px">
            Drag over the sound or over the words: both show the same span. A click places the
            playhead.
          </Text>
          <Button size="xs" mt="3" variant="outline" onClick={() => startSection(position())}>
            Start a section at the playhead
          </Button>
        </Card>
      )}
    </>
  );
}

/** Starts a new section at a frame. */
function useSectionStart(episode: Episode) {
  const edit = useEdit(episode.id);
  return (at: number) => {
    const sections = episode.sections.map((s) => ({ at: s.at, name: s.name }));
    if (sections.some((s) => s.at === at)) return;
    edit.mutate({ kind: "set_sections", sections: [...sections, { at, name: "New section" }] });
  };
}

function SelectedSpan({ episode, selection }: { episode: Episode; selection: Span }) {
  const edit = useEdit(episode.id);
  const startSection = useSectionStart(episode);
  const go = useNavigate();
  const select = useView((v) => v.select);
  const { data } = useQuery({
    queryKey: ["selected", episode.id, episode.revision, selection.start, selection.end],
    placeholderData: keepPreviousData,
    queryFn: () => fetchWords(episode.id, episode.revision, selection.start, selection.end),
  });
  const words = (data ?? []).filter((word) => holds(selection, word));
  const only = words.length === 1 ? words[0] : undefined;
  const cut = () => {
    edit.mutate(cutOf(selection));
    place(selection.start);
    select(null);
  };
  return (
    <Card data-testid="selected">
      <Text fontSize="13px" color="quiet">
        {clock(selection.start, 2)} – {clock(selection.end, 2)} ·{" "}
        {seconds(selection.end - selection.start)}
      </Text>
      <Text fontFamily="script" fontSize="16px" my="2" lineClamp="4">
        {words.length ? words.map((w) => w.text).join(" ") : "No words here."}
      </Text>
      <HStack wrap="wrap" gap="2">
        <Button size="xs" colorPalette="pine" onClick={cut} title="Delete">
          Cut
        </Button>
        <Button
          size="xs"
          variant="outline"
          title="Enter"
          onClick={() => play(selection.start, selection.end)}
        >
          Hear it
        </Button>
        <Button
          size="xs"
          variant="outline"
          title="Record it again; what is here now is kept"
          onClick={() => {
            landOverSelection();
            go(`/episodes/${episode.id}/record`);
          }}
        >
          Retake
        </Button>
        <Button size="xs" variant="outline" onClick={() => startSection(selection.start)}>
          Start a section
        </Button>
      </HStack>
      {only && <Correct key={`${only.take}:${only.word}`} episode={episode} word={only} />}
    </Card>
  );
}

function Correct({ episode, word }: { episode: Episode; word: Word }) {
  const edit = useEdit(episode.id);
  const [text, setText] = useState(word.text);
  const changed = text.trim() !== "" && text.trim() !== word.text;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!changed) return;
        edit.mutate({ kind: "correct_word", take: word.take, word: word.word, text: text.trim() });
      }}
    >
      <Text fontSize="12px" color="quiet" mt="3" mb="1">
        Written as (the sound stays as it is)
      </Text>
      <HStack>
        <Input
          size="sm"
          aria-label="Written as"
          fontFamily="script"
          fontSize="16px"
          value={text}
          maxLength={200}
          onChange={(event) => setText(event.target.value)}
        />
        <Button size="sm" type="submit" variant="outline" disabled={!changed}>
          Correct
        </Button>
      </HStack>
    </form>
  );
}

function Recordings({ episode }: { episode: Episode }) {
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
          {!take.heard && (
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

function History({ episode }: { episode: Episode }) {
  const { data } = useHistory(episode.id, episode.revision);
  const entries = (data ?? []).slice(-30).reverse();
  return (
    <Box data-testid="history">
      <Heading>What was done</Heading>
      {entries.map((entry) => (
        <Text
          key={entry.revision}
          fontSize="13px"
          py="1"
          borderBottomWidth="1px"
          borderColor="rule"
          color={entry.done ? "ink" : "quiet"}
          textDecoration={entry.done ? undefined : "line-through"}
          title={entry.done ? undefined : "Undone; redo brings it back"}
        >
          {entry.name}
        </Text>
      ))}
    </Box>
  );
}

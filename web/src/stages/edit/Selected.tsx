/** What is selected, and what can be done with it; the clip under the playhead. */
import { Box, Button, Flex, HStack, Input, Text } from "@chakra-ui/react";
import { keepPreviousData, queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, useDeferredValue, useState } from "react";
import type { Context } from "../../actions/action";
import { trackOf } from "../../actions/selection";
import type { Episode, Word } from "../../api/client";
import { useCorrectAll, useEdit } from "../../api/queries";
import { Do } from "../../page/Do";
import { inkOf } from "../../theme/colours";
import { TimeField } from "../../theme/fields/TimeField";
import { useMode } from "../../theme/mode";
import { Pick } from "../../theme/Pick";
import { seconds } from "../../time";
import { fetchWords } from "../../view/data";
import { holds, type PointedSpan, useView } from "../../view/view";
import { Card, Heading } from "../Panel";
import { SaidBy } from "./SaidBy";

/** It follows what is selected a moment later, so that the Page does at once. */
export function Selected({ context }: { context: Context }) {
  const selection = useDeferredValue(useView((v) => v.selection));
  return <Chosen context={context} selection={selection} />;
}

const Chosen = memo(function Chosen({
  context,
  selection,
}: {
  context: Context;
  selection: PointedSpan | null;
}) {
  const { episode } = context;
  return (
    <>
      <Flex align="center" justify="space-between" mb="1.5">
        <Heading>Selection</Heading>
        {episode.tracks.length > 1 && <OnTrack episode={episode} />}
      </Flex>
      {selection ? (
        <SelectedSpan context={context} selection={selection} />
      ) : (
        <Card data-testid="selected">
          <Text color="quiet" fontSize="13px">
            Drag over the sound or over the words: both show the same span. Double click for a word,
            three clicks for a sentence. A click places the playhead.
          </Text>
          <HStack mt="2" gap="1.5" wrap="wrap">
            <Do context={context} id="section">
              Start a section here
            </Do>
            <Do context={context} id="marker">
              Marker
            </Do>
            <Do context={context} id="split">
              Split
            </Do>
            <Do context={context} id="add-air">
              Add air
            </Do>
            <Do context={context} id="paste">
              Paste
            </Do>
          </HStack>
        </Card>
      )}
    </>
  );
});

/** The track that covering, silencing and gain act on. */
function OnTrack({ episode }: { episode: Episode }) {
  const chosen = useView((v) => v.track);
  const mode = useMode((m) => m.mode);
  const track = episode.tracks.some((t) => t.id === chosen) ? chosen : trackOf(episode);
  return (
    <HStack gap="1.5" fontSize="12px" color="quiet">
      <Box w="10px" h="10px" rounded="full" bg={inkOf(episode.tracks, track ?? "", mode).body} />
      <Pick
        name="Track to act on"
        w="130px"
        title="Covering, silence and gain act on this track"
        value={track ?? ""}
        options={episode.tracks.map((t) => [t.id, `on ${t.name}`] as const)}
        onPick={(id) => useView.setState({ track: id })}
      />
    </HStack>
  );
}

function SelectedSpan({ context, selection }: { context: Context; selection: PointedSpan }) {
  const { episode } = context;
  const queries = useQueryClient();
  const asked = queryOptions({
    queryKey: ["selected", episode.id, selection.revision, selection.start, selection.end],
    queryFn: () => fetchWords(episode.id, selection.revision, selection.start, selection.end),
  });
  const { data } = useQuery({ ...asked, placeholderData: keepPreviousData });
  const held = (all: Word[]) => all.filter((word) => holds(selection, word));
  // Until the answer is there, of the words that were selected before those that still are.
  const words = held(data ?? []);
  const only = words.length === 1 ? words[0] : undefined;
  return (
    <Card data-testid="selected">
      <HStack gap="1" fontSize="13px" color="quiet">
        <TimeField
          label="Start of the selection"
          at={selection.start}
          onSet={(start) => useView.getState().select({ start, end: selection.end })}
        />
        –
        <TimeField
          label="End of the selection"
          at={selection.end}
          onSet={(end) =>
            useView
              .getState()
              .select({ start: selection.start, end: Math.min(end, episode.frames) })
          }
        />
        · {seconds(selection.end - selection.start)}
      </HStack>
      <Text fontFamily="script" fontSize="16px" my="1.5" lineClamp="3">
        {words.length ? words.map((w) => w.text).join(" ") : "No words here."}
      </Text>
      {words.length > 0 && (
        <SaidBy
          key={`${selection.start}:${selection.end}`}
          episode={episode}
          words={words}
          all={async () => held(await queries.ensureQueryData(asked))}
        />
      )}
      {only && <Correct key={`${only.take}:${only.word}`} episode={episode} word={only} />}
      {words.length === 2 && <JoinWords episode={episode} words={words} />}
    </Card>
  );
}

function Correct({ episode, word }: { episode: Episode; word: Word }) {
  const edit = useEdit(episode.id);
  const all = useCorrectAll(episode.id);
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
      <Text fontSize="12px" color="quiet" mt="2" mb="1">
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
      {changed && (
        <Button
          size="xs"
          mt="1.5"
          variant="outline"
          onClick={() => all.mutate({ old: word.text, new: text.trim() })}
        >
          Correct it wherever it is written
        </Button>
      )}
    </form>
  );
}

/** Two words that are one: written as one, where the first stands. */
function JoinWords({ episode, words }: { episode: Episode; words: Word[] }) {
  const edit = useEdit(episode.id);
  const [first, second] = words;
  if (!first || !second || first.take !== second.take || second.word !== first.word + 1)
    return null;
  const text = `${first.text}${second.text}`;
  const of = (word: Word, written: string) => ({ take: word.take, word: word.word, text: written });
  return (
    <Button
      size="xs"
      mt="2"
      variant="outline"
      onClick={() =>
        edit.mutate({
          kind: "correct_many",
          words: [of(first, text), of(second, "")],
          name: `Joined “${text}”`,
        })
      }
    >
      Write them as one word
    </Button>
  );
}

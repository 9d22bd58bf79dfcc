/** Who says what is selected: who the track is named after, or somebody else at the same microphone. */
import { Button, HStack, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { trackOf } from "../../actions/selection";
import type { Episode, Word } from "../../api/client";
import { useEdit } from "../../api/queries";
import { named } from "../../page/Says";
import { complain } from "../../theme/toaster";

/** Words as stretches of the takes that they are from. */
function runsOf(words: Word[]) {
  const runs: { take: string; first: number; last: number }[] = [];
  for (const { take, word } of words) {
    const run = runs.at(-1);
    if (run?.take === take && run.last + 1 === word) run.last = word;
    else runs.push({ take, first: word, last: word });
  }
  return runs;
}

interface Props {
  episode: Episode;
  /** The words that are known to be selected; `all` are those that are, once the server told. */
  words: Word[];
  all: () => Promise<Word[]>;
}

export function SaidBy({ episode, words, all }: Props) {
  const edit = useEdit(episode.id);
  const [typed, setTyped] = useState("");
  const chosen = trackOf(episode);
  const track = words.some((w) => w.track === chosen) ? chosen : words[0]?.track;
  const own = episode.tracks.find((t) => t.id === track)?.name ?? "The track’s own voice";
  const onTrack = (w: Word) => w.track === track;
  const here = words.filter(onTrack);
  const said = new Set(here.map((w) => w.speaker));
  const only = said.size === 1 ? [...said][0] : undefined;
  const first = here[0];
  // Words whose voice was told apart say the track's name only where it is theirs by name.
  const names = here.some((w) => w.voice) ? [own, ...episode.speakers] : ["", ...episode.speakers];
  const name = (name: string) => {
    all()
      .then((words) =>
        edit.mutate({ kind: "name_speaker", words: runsOf(words.filter(onTrack)), name }),
      )
      .catch(complain);
    setTyped("");
  };
  const other = typed.trim();
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!other) return;
        name(other);
        // Keys act on the Page again.
        event.currentTarget.querySelector("input")?.blur();
      }}
    >
      <Text fontSize="12px" color="quiet" mt="2" mb="1">
        Said by
      </Text>
      <HStack wrap="wrap" gap="1.5">
        {[...new Set(names)].map((one) => (
          <Button
            key={one}
            size="xs"
            px="2.5"
            variant={only === one ? "subtle" : "outline"}
            aria-pressed={only === one}
            onClick={() => only !== one && name(one)}
          >
            {one || own}
          </Button>
        ))}
        <Input
          size="xs"
          w="112px"
          aria-label="Another name"
          placeholder="another name"
          maxLength={80}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        {other && (
          <Button size="xs" type="submit" colorPalette="pine">
            Name
          </Button>
        )}
      </HStack>
      {only && other && first && (
        <Button
          size="xs"
          mt="1.5"
          variant="outline"
          onClick={() => {
            edit.mutate(named(first, other));
            setTyped("");
          }}
        >
          {only} is {other} everywhere
        </Button>
      )}
    </form>
  );
}

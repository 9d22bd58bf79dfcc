/** What podcast apps show of an episode. */
import { Box, Field, Flex, Input, SimpleGrid, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { Episode, Schemas, Tags } from "../../api/client";
import { useEdit } from "../../api/queries";
import { TextField } from "../../theme/fields/TextField";
import { named, Pick } from "../../theme/Pick";
import { Heading } from "../Panel";
import { Artwork } from "./Artwork";
import { Description } from "./Description";

const FIELDS: {
  name: keyof Tags;
  label: string;
  wide?: boolean;
  hint?: string;
  number?: boolean;
}[] = [
  { name: "title", label: "Title", wide: true },
  { name: "show", label: "Show" },
  { name: "artist", label: "Artist", hint: "Who speaks" },
  { name: "album_artist", label: "Album artist", hint: "Who publishes" },
  { name: "genre", label: "Genre" },
  { name: "season", label: "Season", number: true },
  { name: "episode", label: "Episode number", number: true },
  { name: "year", label: "Year", number: true },
  { name: "language", label: "Language", hint: "Three letters, like eng" },
  { name: "copyright", label: "Copyright" },
  { name: "licence", label: "Licence", hint: "CC BY 4.0, for instance" },
  { name: "link", label: "Link", wide: true, hint: "https://…" },
];

const TYPES = { full: "Full episode", trailer: "Trailer", bonus: "Bonus" } as const;

type Person = Schemas["Person"];

const peopleText = (people: readonly Person[]) =>
  people.map(({ name, role }) => `${name} (${role})`).join(", ");

/** People as they are typed: names, each perhaps with what they did in brackets. */
const peopleOf = (text: string): Person[] =>
  text
    .split(",")
    .map((one) => /^\s*([^()]+?)\s*(?:\(([^()]+)\))?\s*$/.exec(one))
    .flatMap((found) =>
      found?.[1]
        ? [{ name: found[1].slice(0, 128), role: (found[2] ?? "guest").trim().slice(0, 40) }]
        : [],
    )
    .slice(0, 50);

/** The new tags, with what differs from those of before left as it is typed. */
function merged(typed: Tags, before: Tags, now: Tags): Tags {
  const own = Object.entries(typed).filter(([name, value]) => value !== before[name as keyof Tags]);
  return { ...now, ...Object.fromEntries(own) };
}

export function TagForm({ episode }: { episode: Episode }) {
  const edit = useEdit(episode.id);
  const [tags, setTags] = useState<Tags>(episode.tags);
  const latest = useRef(tags);
  latest.current = tags;
  // What changed elsewhere (an undo, another window) comes in; what is being typed here stays.
  const kept = useRef(episode.tags);
  useEffect(() => {
    const before = kept.current;
    kept.current = episode.tags;
    setTags((old) => merged(old, before, episode.tags));
  }, [episode.tags]);
  // What is on its way is not sent again by the next field that is left.
  const sent = useRef<string | null>(null);
  const save = (artwork = episode.artwork) => {
    const asked = JSON.stringify([latest.current, artwork]);
    if (asked === (sent.current ?? JSON.stringify([episode.tags, episode.artwork]))) return;
    sent.current = asked;
    const settled = () => {
      if (sent.current === asked) sent.current = null;
    };
    edit.mutate({ kind: "set_tags", tags: latest.current, artwork }, { settled });
  };
  /** Set some of them and keep them at once. */
  const keep = (some: Partial<Tags>) => {
    latest.current = { ...latest.current, ...some };
    setTags(latest.current);
    save();
  };
  const put = (name: keyof Tags, text: string, number?: boolean) => {
    const value = number ? (/^\d+$/.test(text) ? Number(text) : null) : text;
    setTags((old) => ({ ...old, [name]: value }));
  };
  return (
    <Box maxW="820px">
      <Heading>Tags</Heading>
      <Text fontSize="13px" color="quiet" mb="4">
        Podcast apps show these. They are kept as you leave each field.
      </Text>
      <Flex gap="6" align="flex-start">
        <Artwork episode={episode} onSet={save} />
        <SimpleGrid columns={2} gapX="4" gapY="3" flex="1">
          {FIELDS.map((field) => (
            <Field.Root key={field.name} gridColumn={field.wide ? "span 2" : undefined}>
              <Field.Label fontSize="13px">{field.label}</Field.Label>
              <Input
                size="sm"
                bg="raised"
                value={String(tags[field.name] ?? "")}
                placeholder={field.hint ?? (field.name === "title" ? episode.title : undefined)}
                inputMode={field.number ? "numeric" : undefined}
                onChange={(event) => put(field.name, event.target.value, field.number)}
                onBlur={() => save()}
              />
            </Field.Root>
          ))}
          <Field.Root>
            <Field.Label fontSize="13px">Type</Field.Label>
            <Pick
              name="Type of episode"
              size="sm"
              value={tags.episode_type ?? "full"}
              options={named(TYPES)}
              onPick={(episode_type) => keep({ episode_type })}
            />
          </Field.Root>
          <Field.Root>
            <Field.Label fontSize="13px">For children too?</Field.Label>
            <Pick
              name="Explicit words"
              size="sm"
              value={tags.explicit ? "yes" : "no"}
              options={[
                ["no", "Yes: no strong language"],
                ["yes", "No: explicit words in it"],
              ]}
              onPick={(explicit) => keep({ explicit: explicit === "yes" })}
            />
          </Field.Root>
          <Field.Root gridColumn="span 2">
            <Field.Label fontSize="13px">People</Field.Label>
            <TextField
              size="sm"
              bg="raised"
              optional
              maxLength={2000}
              label="People"
              placeholder="Marit Sorley (guest), Tobin Hallam (host)"
              value={peopleText(tags.people ?? [])}
              onSet={(text) => keep({ people: peopleOf(text) })}
            />
          </Field.Root>
          <Description
            episode={episode}
            text={tags.description ?? ""}
            onType={(text) => put("description", text)}
            onKeep={(description) => keep({ description })}
          />
        </SimpleGrid>
      </Flex>
    </Box>
  );
}

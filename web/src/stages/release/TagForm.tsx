/** What podcast apps show of an episode. */
import { Box, Field, Flex, Input, SimpleGrid, Text, Textarea } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { Episode, Tags } from "../../api/client";
import { useEdit } from "../../api/queries";
import { Heading } from "../Panel";
import { Artwork } from "./Artwork";

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
  { name: "link", label: "Link", hint: "https://…" },
];

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
  const save = (artwork = episode.artwork) => {
    const same = JSON.stringify(latest.current) === JSON.stringify(episode.tags);
    if (same && artwork === episode.artwork) return;
    edit.mutate({ kind: "set_tags", tags: latest.current, artwork });
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
          <Field.Root gridColumn="span 2">
            <Field.Label fontSize="13px">Description</Field.Label>
            <Textarea
              rows={3}
              bg="raised"
              value={tags.description ?? ""}
              onChange={(event) => put("description", event.target.value)}
              onBlur={() => save()}
            />
          </Field.Root>
        </SimpleGrid>
      </Flex>
    </Box>
  );
}

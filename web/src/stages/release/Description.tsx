/** What an episode is about, in Markdown, beside what apps show of it. */
import { Box, Button, Field, Flex, Text, Textarea } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { client, type Episode, take } from "../../api/client";

interface Props {
  episode: Episode;
  text: string;
  onType: (text: string) => void;
  /** It is kept as it stands. */
  onKeep: (text: string) => void;
}

export function Description({ episode, text, onType, onKeep }: Props) {
  const typed = useDeferredValue(text);
  const { data } = useQuery({
    queryKey: ["description", episode.id, episode.revision, typed],
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    queryFn: () =>
      take(
        client.POST("/api/episodes/{episode_id}/description", {
          params: { path: { episode_id: episode.id } },
          body: { revision: episode.revision, text: typed },
        }),
      ),
  });
  const put = (more: string) => onKeep([text.trimEnd(), more].filter(Boolean).join("\n\n"));
  const credits = (data?.credits ?? []).filter((one) => !text.includes(one));
  const link = episode.tags.link ? `[Transcript](${episode.tags.link})` : "";
  const offered: [string, string, string][] = [
    ["Times of chapters", data?.times ?? "", "Apps make links of them"],
    ["Credits of sounds", credits.join("\n"), "What the sounds in it ask to be named by"],
    ["Transcript", link, "A link to the episode’s own page, which has it"],
  ];
  const offers = offered.filter(([, more]) => more && !text.includes(more));
  return (
    <Field.Root gridColumn="span 2">
      <Field.Label fontSize="13px">Description</Field.Label>
      <Textarea
        rows={4}
        bg="raised"
        value={text}
        placeholder="Markdown: *emphasis*, [a link](https://…), - a list"
        onChange={(event) => onType(event.target.value)}
        onBlur={() => onKeep(text)}
      />
      {offers.length > 0 && (
        <Flex gap="1.5" align="center" wrap="wrap">
          <Text fontSize="12px" color="quiet">
            Put in:
          </Text>
          {offers.map(([says, more, title]) => (
            <Button key={says} size="2xs" variant="outline" title={title} onClick={() => put(more)}>
              {says}
            </Button>
          ))}
        </Flex>
      )}
      {text && data && (
        <Box
          w="100%"
          mt="1"
          p="3"
          bg="wash"
          borderRadius="8px"
          fontSize="13px"
          css={{
            "& p + p, & ul, & ol, & blockquote": { marginTop: "0.6em" },
            "& ul": { listStyle: "disc", paddingLeft: "1.3em" },
            "& ol": { listStyle: "decimal", paddingLeft: "1.3em" },
            "& a": { textDecoration: "underline" },
          }}
          data-testid="description-preview"
        >
          <Text fontSize="12px" color="quiet" mb="1">
            As apps show it
          </Text>
          {/* biome-ignore lint/security/noDangerouslySetInnerHtml: the server cleaned it of all that runs */}
          <div dangerouslySetInnerHTML={{ __html: data.html }} />
        </Box>
      )}
    </Field.Root>
  );
}

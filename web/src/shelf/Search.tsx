/** Finding a title, or a sentence, in all episodes. */
import { Box, Input, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { Link } from "react-router";
import { client, type Schemas, take } from "../api/client";
import { clock } from "../time";

const LEAST = 2;

/** Whether what is typed is enough to look for. */
export const isSearch = (text: string) => text.trim().length >= LEAST;

export function SearchField({ text, onText }: { text: string; onText: (text: string) => void }) {
  return (
    <Input
      type="search"
      size="sm"
      w="280px"
      bg="raised"
      aria-label="Find in all episodes"
      placeholder="Find a title or a sentence"
      value={text}
      maxLength={200}
      onChange={(event) => onText(event.target.value)}
      onKeyDown={(event) => event.key === "Escape" && onText("")}
    />
  );
}

export function SearchResults({ text }: { text: string }) {
  const wanted = useDeferredValue(text.trim());
  const { data, error } = useQuery({
    queryKey: ["search", wanted],
    enabled: isSearch(wanted),
    placeholderData: keepPreviousData,
    queryFn: () => take(client.GET("/api/search", { params: { query: { text: wanted } } })),
  });
  if (error) return <Text color="trouble">{error.message}</Text>;
  if (!data) return <Text color="quiet">Looking…</Text>;
  return (
    <Box as="section" aria-label="Found" mb="10" data-testid="found">
      <Text
        color="quiet"
        fontSize="13px"
        pb="2"
        borderBottomWidth="2px"
        borderColor="ink"
        role="status"
      >
        {data.length
          ? `${data.length} ${data.length === 1 ? "place" : "places"}`
          : `“${wanted}” is in no title, and nobody says it.`}
      </Text>
      {data.map((one, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the same may be said twice at one place
        <OneFound key={place} one={one} />
      ))}
    </Box>
  );
}

function OneFound({ one }: { one: Schemas["FoundView"] }) {
  const at = one.at === null ? "" : `?at=${one.at}`;
  return (
    <Box
      asChild
      display="block"
      py="2.5"
      borderBottomWidth="1px"
      borderColor="rule"
      _hover={{ bg: "wash" }}
    >
      <Link to={`/episodes/${one.episode_id}/edit${at}`}>
        {one.at !== null && (
          <Text fontFamily="script" fontSize="17px">
            {one.before && `… ${one.before} `}
            <Box as="mark" bg="mark" color="ink">
              {one.said}
            </Box>
            {one.after && ` ${one.after} …`}
          </Text>
        )}
        <Text
          fontFamily={one.at === null ? "script" : undefined}
          fontSize={one.at === null ? "17px" : "13px"}
          color={one.at === null ? "ink" : "quiet"}
        >
          {one.title}
          {one.at !== null && ` · ${clock(one.at, 0)}`}
        </Text>
      </Link>
    </Box>
  );
}

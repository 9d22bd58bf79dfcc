/** Finding words: every place where they are said, gone to one by one, cut all at once after a look. */
import { Box, Button, Flex, HStack, Input, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Context } from "../../actions/action";
import { client, take } from "../../api/client";
import { place, playAround, position } from "../../playback/player";
import { clock } from "../../time";
import { useView } from "../../view/view";
import { Ticked, useLeftOut } from "./Ticked";

export function Find({ context }: { context: Context }) {
  const { episode, edit } = context;
  const [text, setText] = useState("");
  const kept = useLeftOut<number>();
  const { data, error, isFetching, isPlaceholderData } = useQuery({
    queryKey: ["find", episode.id, episode.revision, text],
    enabled: text.trim() !== "",
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/find", {
          params: { path: { episode_id: episode.id }, query: { revision: episode.revision, text } },
        }),
      ),
  });
  const hits = text.trim() ? (data ?? []) : [];
  useEffect(() => {
    useView.setState({ hits: text.trim() ? (data ?? []) : [] });
  }, [data, text]);
  useEffect(() => () => useView.setState({ hits: [] }), []);

  const go = (back: boolean) => {
    const at = position();
    const hit = back ? hits.findLast((h) => h.start < at) : hits.find((h) => h.start > at);
    if (!hit) return;
    place(hit.start);
    useView.getState().select({ start: hit.start, end: hit.start + hit.frames });
  };
  const chosen = hits.filter((h) => !kept.left.has(h.start));
  const cutAll = () => {
    edit({
      kind: "cut_many",
      spans: chosen.map((h) => ({ start: h.start, frames: h.frames })),
      name: `Cut “${text.trim()}” ${chosen.length} ${chosen.length === 1 ? "time" : "times"}`,
    });
    kept.clear();
    useView.getState().select(null);
  };
  return (
    <Box data-testid="find">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          go(false);
        }}
      >
        <Input
          data-find=""
          size="sm"
          type="search"
          aria-label="Find words"
          placeholder="Words, as they are said"
          value={text}
          maxLength={200}
          onChange={(event) => {
            setText(event.target.value);
            kept.clear();
          }}
          onKeyDown={(event) => {
            if (event.key === "Escape") event.currentTarget.blur();
            if (event.key === "Enter" && event.shiftKey) {
              event.preventDefault();
              go(true);
            }
          }}
        />
      </form>
      {text.trim() && (
        <>
          <Flex justify="space-between" align="center" mt="2">
            <Text fontSize="13px" role="status">
              {error
                ? error.message
                : isFetching && (isPlaceholderData || !hits.length)
                  ? "Looking"
                  : hits.length === 0
                    ? "Nowhere"
                    : hits.length === 1
                      ? "1 place"
                      : `${hits.length} places`}
            </Text>
            <HStack gap="1">
              <Button size="xs" variant="outline" onClick={() => go(true)} disabled={!hits.length}>
                Before
              </Button>
              <Button size="xs" variant="outline" onClick={() => go(false)} disabled={!hits.length}>
                Next
              </Button>
            </HStack>
          </Flex>
          <Box maxH="300px" overflowY="auto" mt="1">
            {hits.slice(0, 300).map((hit) => (
              <Ticked
                key={`${hit.track}:${hit.start}`}
                says={`Cut “${hit.text}” at ${clock(hit.start)}`}
                ticked={!kept.left.has(hit.start)}
                onToggle={() => kept.toggle(hit.start)}
              >
                <Box
                  as="button"
                  textAlign="left"
                  flex="1"
                  minW="0"
                  fontFamily="script"
                  fontSize="14px"
                  onClick={() => {
                    place(hit.start);
                    useView.getState().select({ start: hit.start, end: hit.start + hit.frames });
                  }}
                >
                  <Text truncate>
                    {hit.before} <b>{hit.text}</b> {hit.after}
                  </Text>
                </Box>
                <Button size="2xs" variant="ghost" onClick={() => playAround(hit.start)}>
                  {clock(hit.start)}
                </Button>
              </Ticked>
            ))}
          </Box>
          {hits.length > 0 && (
            <Button
              size="sm"
              colorPalette="pine"
              mt="3"
              w="100%"
              // Where they stood before the last edit is not where they stand.
              disabled={!chosen.length || isPlaceholderData}
              onClick={cutAll}
            >
              Cut {chosen.length === 1 ? "this one" : `these ${chosen.length}`}
            </Button>
          )}
        </>
      )}
    </Box>
  );
}

/** What was said, held against a script: where they differ, and the script's spelling taken over. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Episode, type Schemas, take } from "../../../api/client";
import { useScript, useScriptSpelling } from "../../../api/queries";
import { place, playAround } from "../../../playback/player";
import { clock } from "../../../time";
import { useView } from "../../../view/view";
import { Writing } from "../../record/Script";

const KINDS: Record<Schemas["Difference"]["kind"], string> = {
  slip: "Slip",
  left_out: "Left out",
  came_in: "Came in",
};

export function HeldAgainstScript({ episode }: { episode: Episode }) {
  const [open, setOpen] = useState(false);
  return (
    <Box
      as="details"
      mt="2"
      fontSize="13px"
      onToggle={(e) => setOpen((e.target as HTMLDetailsElement).open)}
    >
      <Box as="summary" cursor="pointer" color="quiet">
        Hold it against a script
      </Box>
      {open && <Script episode={episode} />}
    </Box>
  );
}

function Script({ episode }: { episode: Episode }) {
  const { data: text } = useScript(episode.id, episode.revision);
  const [writing, setWriting] = useState(false);
  if (text === undefined) return null;
  return (
    <Box mt="2" data-testid="script">
      {text.trim() ? (
        <Differences episode={episode} />
      ) : (
        <Text color="quiet">
          Paste what was meant to be read: slips and what was left out are shown, and its spelling
          can be taken over.
        </Text>
      )}
      <Button size="xs" mt="2" variant="outline" onClick={() => setWriting(true)}>
        {text.trim() ? "Change the script" : "Write or paste it"}
      </Button>
      {writing && <Writing episode={episode} text={text} onClose={() => setWriting(false)} />}
    </Box>
  );
}

function Differences({ episode }: { episode: Episode }) {
  const spelling = useScriptSpelling(episode.id);
  const { data, error } = useQuery({
    queryKey: ["held", episode.id, episode.revision],
    retry: false,
    // Whoever goes through the list stays where they are in it.
    placeholderData: keepPreviousData,
    // It ends when nobody looks at it any more.
    queryFn: ({ signal }) =>
      take(
        client.GET("/api/episodes/{episode_id}/script/held", {
          signal,
          params: { path: { episode_id: episode.id }, query: { revision: episode.revision } },
        }),
      ),
  });
  if (error) return <Text color="trouble">{error.message}</Text>;
  if (!data) return <Text color="quiet">Holding it against what was said</Text>;
  return (
    <>
      <Text role="status">
        {data.differences.length === 0
          ? "Everything was said as it is written."
          : `${data.differences.length} ${data.differences.length === 1 ? "place differs" : "places differ"}.`}
      </Text>
      <Box maxH="220px" overflowY="auto">
        {data.differences.map((one) => (
          <Flex
            key={`${one.kind}:${one.start}:${one.meant}`}
            gap="1"
            align="center"
            borderBottomWidth="1px"
            borderColor="rule"
          >
            <Box
              as="button"
              flex="1"
              minW="0"
              textAlign="left"
              py="1"
              onClick={() => {
                place(one.start);
                useView.getState().select({ start: one.start, end: one.end });
              }}
            >
              <Text color="quiet">
                {KINDS[one.kind]} · {clock(one.start)}
              </Text>
              <Text fontFamily="script" fontSize="14px">
                {one.said && <s>{one.said}</s>} {one.meant}
              </Text>
            </Box>
            <Button size="2xs" variant="ghost" onClick={() => playAround(one.start)}>
              Hear
            </Button>
          </Flex>
        ))}
      </Box>
      {data.spelling > 0 && (
        <HStack mt="2">
          <Button
            size="xs"
            variant="outline"
            loading={spelling.isPending}
            onClick={() => spelling.mutate(undefined)}
          >
            Write {data.spelling === 1 ? "1 word" : `${data.spelling} words`} as the script does
          </Button>
        </HStack>
      )}
    </>
  );
}

/** What episodes take on the disk, what of that can be made again, and whether all looks whole. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useSearchParams } from "react-router";
import { client, type Schemas, take } from "../api/client";
import { keys, useShows } from "../api/queries";
import { announce } from "../theme/toaster";
import { megabytes } from "../time";
import { SPACE } from "../view/places";
import { useCarry } from "./carry";
import { Twice } from "./Twice";

type Taken = Schemas["TakenView"];

/** So many are listed; what is small is not worth a line. */
const MOST = 20;

export function Space() {
  const [search, setSearch] = useSearchParams();
  const open = search.has(SPACE);
  const box = useRef<HTMLDetailsElement>(null);
  useEffect(() => {
    if (open) box.current?.scrollIntoView({ block: "start" });
  }, [open]);
  return (
    <Box asChild mb="2" data-testid="space">
      <details
        ref={box}
        open={open}
        onToggle={(event) => {
          const shown = event.currentTarget.open;
          if (shown !== open) setSearch(shown ? { [SPACE]: "" } : {}, { replace: true });
        }}
      >
        <Box as="summary" cursor="pointer">
          Disk space
        </Box>
        {open && <Episodes />}
      </details>
    </Box>
  );
}

function Episodes() {
  const { data: shows } = useShows();
  const { data, error } = useQuery({
    queryKey: [...keys.shows, "space"],
    queryFn: () => take(client.GET("/api/space")),
  });
  if (error) return <Text color="trouble">{error.message}</Text>;
  if (!data || !shows) return <Text ps="4">Looking …</Text>;
  const titles = new Map(shows.flatMap((show) => show.episodes.map((one) => [one.id, one.title])));
  const filled = data.episodes.filter((one) => one.bytes > 0);
  const largest = filled.toSorted((a, b) => b.bytes - a.bytes);
  const all = largest.reduce((sum, one) => sum + one.bytes, 0);
  const damaged = largest.filter((one) => one.damaged.length > 0);
  return (
    <Box mt="1" mb="2" ps="4">
      <Text mb="1">
        {megabytes(all)} in all episodes; {megabytes(data.free)} are free.{" "}
        {damaged.length === 0 && "All recordings look whole."}
      </Text>
      {damaged.map((one) => (
        <Text key={one.id} color="trouble">
          In “{titles.get(one.id)}” {one.damaged.join(", ")}{" "}
          {one.damaged.length === 1 ? "is" : "are"} damaged. Open it to see what can be done.
        </Text>
      ))}
      {largest.slice(0, MOST).map((one) => (
        <Line
          key={one.id}
          taken={one}
          title={titles.get(one.id) ?? ""}
          share={one.bytes / (largest[0]?.bytes || 1)}
        />
      ))}
      {largest.length > MOST && <Text mt="1">And {largest.length - MOST} smaller ones.</Text>}
    </Box>
  );
}

function Line({ taken, title, share }: { taken: Taken; title: string; share: number }) {
  const carry = useCarry();
  const clear = async () => {
    const params = { path: { episode_id: taken.id } };
    const freed = await carry(take(client.POST("/api/episodes/{episode_id}/clear", { params })));
    if (freed) announce(`${megabytes(freed.bytes)} are free again.`);
  };
  return (
    <Flex align="center" gap="3" py="1" minH="34px" borderBottomWidth="1px" borderColor="rule">
      <Text flex="1" minW="0" truncate color="ink">
        {title}
      </Text>
      <Box w="90px" h="6px" bg="wash" borderRadius="3px" overflow="hidden" aria-hidden="true">
        <Box w={`${share * 100}%`} minW="2px" h="100%" bg="pine.solid" />
      </Box>
      <Text w="70px" textAlign="right" whiteSpace="nowrap">
        {megabytes(taken.bytes)}
      </Text>
      <Flex w="300px" justify="flex-end" align="center" gap="2">
        {taken.clearable > 0 && (
          <Twice but="They can be made again." yes="Delete files" onYes={clear}>
            {`Clear ${megabytes(taken.clearable)} of finished files`}
          </Twice>
        )}
      </Flex>
    </Flex>
  );
}

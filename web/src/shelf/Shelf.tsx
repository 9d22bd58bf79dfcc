/** The shelf: shows and their episodes. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Link } from "react-router";
import { client, type Schemas, take } from "../api/client";
import { keys, useShows } from "../api/queries";
import { patchEpisode, patchShow } from "../api/shelf";
import { ModeButton } from "../theme/ModeButton";
import { named, Pick } from "../theme/Pick";
import { announce } from "../theme/toaster";
import { useWalk } from "../view/walk";
import { Begin } from "./Begin";
import { useCarry } from "./carry";
import { type EpisodeItem, EpisodeLine } from "./EpisodeLine";
import { Keeping } from "./Keeping";
import { NameForm } from "./NameForm";
import { NewEpisode } from "./NewEpisode";
import { OpenPack } from "./OpenPack";
import { Quiet } from "./Quiet";
import { isSearch, SearchField, SearchResults } from "./Search";
import { Setups } from "./Setups";

type Show = Schemas["ShowOnShelf"];

/** Whoever has more episodes than this has begun long ago. */
const FEW = 3;

export function Shelf() {
  const { data: shows, error } = useShows();
  const [naming, setNaming] = useState(false);
  const [text, setText] = useState("");
  const carry = useCarry();
  const add = (name: string) => carry(take(client.POST("/api/shows", { body: { name } })));
  // The oldest that has sound: with the demo, the one that is made for it.
  const heard = shows
    ?.flatMap(({ episodes }) => episodes)
    .filter(({ frames, archived }) => frames > 0 && !archived)
    .toSorted((a, b) => a.id - b.id);
  const { over } = useWalk();
  const first = heard && heard.length <= FEW && !over ? heard[0] : undefined;
  return (
    <Box as="main" h="100%" overflowY="auto">
      <Box maxW="860px" mx="auto" px="8" py="8">
        <Flex justify="space-between" align="center" mb="8">
          <Text as="h1" fontFamily="heading" fontSize="28px" fontWeight="700">
            Air Trim
          </Text>
          <HStack>
            {shows && shows.length > 0 && <SearchField text={text} onText={setText} />}
            <ModeButton />
            {shows && shows.length > 0 && (
              <Button
                size="sm"
                variant="outline"
                colorPalette="pine"
                onClick={() => setNaming(true)}
              >
                New show
              </Button>
            )}
          </HStack>
        </Flex>
        {error && <Text color="trouble">{error.message}</Text>}
        {(naming || shows?.length === 0) && (
          <Box mb="8" p="5" bg="raised" borderWidth="1px" borderColor="rule" borderRadius="10px">
            <Text fontFamily="heading" fontSize="18px" fontWeight="700">
              {shows?.length === 0 ? "Start with a show" : "A new show"}
            </Text>
            <Text color="quiet" mb="3">
              A show holds your episodes. What is it called?
            </Text>
            <NameForm
              label="Name of the show"
              action="Create"
              onSet={async (name) => {
                if (await add(name)) setNaming(false);
              }}
              onCancel={naming ? () => setNaming(false) : undefined}
            />
          </Box>
        )}
        {isSearch(text) ? (
          <SearchResults text={text} />
        ) : (
          shows?.map((show) => <ShowShelf key={show.id} show={show} walked={!first} />)
        )}
        {first && !isSearch(text) && <Begin episode={first} />}
        <Keeping onBack={(episode) => carry(patchEpisode(episode, { deleted: false }))} />
      </Box>
    </Box>
  );
}

/** From so many episodes on they can be put in another order. */
const MANY = 4;

type Order = keyof typeof ORDERS;

const ORDERS = {
  newest: "Newest first",
  changed: "Changed last first",
  title: "By title",
  number: "By number",
  standing: "By how far they are",
} as const;

const BY: Record<Order, (a: EpisodeItem, b: EpisodeItem) => number> = {
  newest: (a, b) => b.id - a.id,
  changed: (a, b) => b.updated_at.localeCompare(a.updated_at),
  title: (a, b) => a.title.localeCompare(b.title, undefined, { numeric: true }),
  number: (a, b) => (b.season ?? 0) - (a.season ?? 0) || (b.number ?? 0) - (a.number ?? 0),
  standing: (a, b) => a.standing.localeCompare(b.standing),
};

/** A show’s episodes. Until whoever is new here has `walked`, a new one is not what comes first. */
function ShowShelf({ show, walked }: { show: Show; walked: boolean }) {
  const [mode, setMode] = useState<"rest" | "rename" | "add">("rest");
  const [order, setOrder] = useState<Order>("newest");
  const carry = useCarry();
  const here = show.episodes.filter((one) => !one.archived);
  const away = show.episodes.filter((one) => one.archived);
  const queries = useQueryClient();
  const onOpened = useCallback(
    () => void queries.invalidateQueries({ queryKey: keys.shows }),
    [queries],
  );
  const remove = async () => {
    if (await carry(patchShow(show.id, { deleted: true }))) {
      announce(
        `“${show.name}” was deleted.`,
        () => void carry(patchShow(show.id, { deleted: false })),
      );
    }
  };
  return (
    <Box as="section" mb="10" data-testid="show">
      <Flex
        align="baseline"
        justify="space-between"
        borderBottomWidth="2px"
        borderColor="ink"
        pb="2"
      >
        {mode === "rename" ? (
          <NameForm
            label="Name of the show"
            action="Rename"
            initial={show.name}
            onSet={async (name) => {
              if (await carry(patchShow(show.id, { name }))) {
                setMode("rest");
                announce(
                  `Renamed to “${name}”.`,
                  () => void carry(patchShow(show.id, { name: show.name })),
                );
              }
            }}
            onCancel={() => setMode("rest")}
          />
        ) : (
          <>
            <Text as="h2" fontFamily="heading" fontSize="22px" fontWeight="700">
              {show.name}
            </Text>
            <HStack gap="1">
              <Button asChild size="xs" variant="ghost" color="quiet">
                <Link to={`/shows/${show.id}/batch`}>Batch</Link>
              </Button>
              <OpenPack show={show.id} onDone={onOpened} />
              <Quiet onClick={() => setMode("rename")}>Rename</Quiet>
              <Quiet onClick={remove}>Delete</Quiet>
              <Button
                size="xs"
                variant={walked ? "solid" : "outline"}
                colorPalette="pine"
                onClick={() => setMode("add")}
              >
                New episode
              </Button>
            </HStack>
          </>
        )}
      </Flex>
      {mode === "add" && (
        <Box py="3">
          <NewEpisode show={show} onCancel={() => setMode("rest")} />
        </Box>
      )}
      {here.length > MANY && (
        <Flex justify="flex-end" align="center" gap="2" pt="2">
          <Pick
            name="Order of the episodes"
            w="190px"
            value={order}
            options={named(ORDERS)}
            onPick={setOrder}
          />
        </Flex>
      )}
      {here.toSorted(BY[order]).map((episode) => (
        <EpisodeLine key={episode.id} episode={episode} />
      ))}
      {away.length > 0 && (
        <Box as="details" py="3" data-testid="archived">
          <Box as="summary" cursor="pointer" color="quiet" fontSize="13px">
            {away.length === 1 ? "1 archived episode" : `${away.length} archived episodes`}
          </Box>
          {away.toSorted(BY[order]).map((episode) => (
            <EpisodeLine key={episode.id} episode={episode} />
          ))}
        </Box>
      )}
      {show.episodes.length === 0 && mode !== "add" && (
        <Text py="4" color="quiet">
          No episodes yet. “New episode” makes a blank Page to drop a recording on.
        </Text>
      )}
      <Setups show={show.id} />
    </Box>
  );
}

/** Many episodes of a show through one recipe. */
import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { ArrowLeft } from "lucide-react";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { isLeft, leftOut, type Recipe, startBatch, useBatches, workSeconds } from "../api/batches";
import type { Schemas } from "../api/client";
import { useShows } from "../api/queries";
import { useSending } from "../api/upload";
import { Card, Heading } from "../stages/Panel";
import { ModeButton } from "../theme/ModeButton";
import { ProgressBar } from "../theme/ProgressBar";
import { TopBar } from "../theme/TopBar";
import { complain } from "../theme/toaster";
import { BatchReport } from "./BatchReport";
import { Chosen } from "./Chosen";
import { RecipeForm } from "./RecipeForm";

const FIRST: Recipe = {
  tidy: "gentle",
  clean: null,
  echo: false,
  level: true,
  target_lufs: null,
  file: { format: "mp3", kbits: null, id3_version: "2.3" },
};

export function BatchPage() {
  const { showId } = useParams();
  const { data: shows } = useShows();
  const show = shows?.find((one) => String(one.id) === showId);
  return (
    <Flex direction="column" h="100%">
      <TopBar gap="3">
        <Button asChild size="sm" variant="ghost" px="2">
          <Link to="/">
            <ArrowLeft size={16} /> Shelf
          </Link>
        </Button>
        <Text as="h1" flex="1" minW="0" truncate fontFamily="heading" fontWeight="700">
          {show ? `Batch: many episodes of ${show.name} at once` : "Batch"}
        </Text>
        <ModeButton />
      </TopBar>
      <Box as="main" flex="1" overflowY="auto">
        <Box maxW="1080px" mx="auto" px="6" py="6">
          {show && <Batches key={show.id} show={show} />}
          {shows && !show && <Text color="quiet">That show is not on the shelf.</Text>}
        </Box>
      </Box>
    </Flex>
  );
}

function Batches({ show }: { show: Schemas["ShowOnShelf"] }) {
  const queries = useQueryClient();
  const { data, error } = useBatches(show.id);
  const [changed, setChanged] = useState<Recipe | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [files, setFiles] = useState<File[]>([]);
  const [setup, setSetup] = useState("");
  const [starting, setStarting] = useState(false);
  const sending = useSending((s) => s.list).filter((one) => one.inBatch);
  if (error) return <Text color="trouble">{error.message}</Text>;
  if (!data) return null;
  // What was used last is meant, until something else is said.
  const recipe = changed ?? data.batches[0]?.recipe ?? FIRST;
  const count = chosen.size + files.length;
  const frames = show.episodes.reduce((sum, e) => sum + (chosen.has(e.id) ? e.frames : 0), 0);
  const start = async () => {
    setStarting(true);
    setFiles([]);
    setChosen(new Set());
    const wanted = { recipe, episodes: [...chosen], files, setup: setup ? Number(setup) : null };
    await startBatch(queries, show.id, wanted).catch(complain);
    setStarting(false);
  };
  const reports = data.batches.map((batch, place) => (
    <BatchReport key={batch.id} show={show.id} batch={batch} pace={data.pace} first={place === 0} />
  ));
  // What is being made is looked at first.
  const running = data.batches.filter((batch) => batch.entries.some(isLeft)).length;
  return (
    <>
      {reports.slice(0, running)}
      <Grid templateColumns={{ base: "1fr", md: "360px 1fr" }} gap="6" alignItems="start" mb="8">
        <Box>
          <Heading>What is done to each</Heading>
          <Card>
            <RecipeForm recipe={recipe} formats={data.formats} onChange={setChanged} />
          </Card>
        </Box>
        <Box minW="0">
          <Heading>Which episodes</Heading>
          <Card>
            <Chosen
              {...{ show, chosen, files, setup }}
              onChosen={setChosen}
              onFiles={setFiles}
              onSetup={setSetup}
            />
          </Card>
          <Flex align="center" gap="3">
            <Button colorPalette="pine" disabled={!count} loading={starting} onClick={start}>
              {count ? `Make ${count === 1 ? "1 episode" : `${count} episodes`}` : "Choose some"}
            </Button>
            <Text fontSize="13px" color="quiet">
              {takes(workSeconds(frames, data.pace), count)}
            </Text>
          </Flex>
          {sending.map((one) => (
            <Flex key={one.id} align="center" gap="3" mt="3">
              <Text fontSize="13px" flex="1" minW="0" truncate>
                Sending {one.name}
              </Text>
              <ProgressBar w="160px" value={one.done} />
              <Button
                size="xs"
                variant="ghost"
                color="quiet"
                onClick={() => {
                  one.cancel();
                  void leftOut(one.episode);
                }}
              >
                Cancel
              </Button>
            </Flex>
          ))}
        </Box>
      </Grid>
      {reports.slice(running)}
    </>
  );
}

/** How long it will take, and that nothing is lost by it. */
function takes(workS: number, count: number) {
  const undone = "Each change can be undone in its episode.";
  if (!count || workS < 1) return undone;
  const minutes = Math.round(workS / 60);
  return `${minutes ? `About ${minutes} min` : "Under a minute"} of work. ${undone}`;
}

/** The check: all that is looked at before an episode goes out, each line with its remedy. */
import { Box, Button, Flex, Grid, Spinner, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { client, type Edit, type Episode, type Schemas, take } from "../../api/client";
import { startMeasure, useEdit, useEvenOut } from "../../api/queries";
import { place } from "../../playback/player";
import { complain } from "../../theme/toaster";
import { useGoTo } from "../../view/places";
import { Heading } from "../Panel";

type Line = Schemas["Line"];
type Remedy = Schemas["Remedy"];

/** A word and a shape, so that colour is never all that tells. */
const STATES: Record<Line["state"], { says: string; shape: string; color: string }> = {
  good: { says: "Good", shape: "●", color: "pine.fg" },
  look: { says: "Look", shape: "▲", color: "ochre" },
  stop: { says: "Stop", shape: "■", color: "trouble" },
};

export const useCheck = (episode: Episode) =>
  useQuery({
    queryKey: ["check", episode.id, episode.revision],
    placeholderData: keepPreviousData,
    enabled: episode.frames > 0,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/check", {
          params: { path: { episode_id: episode.id }, query: { revision: episode.revision } },
        }),
      ),
  });

export function Check({ episode }: { episode: Episode }) {
  const { data } = useCheck(episode);
  const edit = useEdit(episode.id);
  const even = useEvenOut(episode.id);
  const goTo = useGoTo();
  if (!episode.frames) {
    return <Text color="quiet">There is nothing to check yet. Add a recording first.</Text>;
  }
  if (!data) return <Spinner />;
  const remedy = (what: Remedy) => {
    if (what.edit) return edit.mutate(what.edit as Edit);
    if (what.doing === "even_out") return even.mutate(undefined);
    if (what.doing === "measure") {
      return void startMeasure(episode.id, episode.revision).catch(complain);
    }
    if (what.at !== null && what.at !== undefined) place(what.at);
    if (what.place) goTo(what.place, episode.id);
  };
  return (
    <Box maxW="820px" data-testid="check">
      <Heading>{data.word}</Heading>
      <Text fontSize="13px" color="quiet" mb="4">
        {data.ready
          ? "Nothing holds it back. What is to be looked at may be as you want it."
          : "What is marked Stop would be a mistake in front of everybody. One press puts it right."}
      </Text>
      <Grid templateColumns="84px 170px 1fr auto" columnGap="3" alignItems="center">
        {data.lines.map((line) => {
          const { says, shape, color } = STATES[line.state];
          return (
            <Fragment key={line.id}>
              <Flex
                gap="2"
                color={color}
                fontWeight="700"
                data-line-state={line.state}
                data-check={line.id}
              >
                <span aria-hidden="true">{shape}</span>
                {says}
              </Flex>
              <Text fontWeight="700">{line.title}</Text>
              <Text fontSize="13px" lineClamp={2} title={line.reason}>
                {line.reason}
              </Text>
              <Flex justify="flex-end" minH="40px" align="center">
                {line.remedy && (
                  <Button
                    size="xs"
                    variant={line.state === "stop" ? "solid" : "outline"}
                    colorPalette={line.state === "stop" ? "pine" : undefined}
                    aria-label={`${line.title}: ${line.remedy.says}`}
                    onClick={() => line.remedy && remedy(line.remedy)}
                  >
                    {line.remedy.says}
                  </Button>
                )}
              </Flex>
              <Box gridColumn="1 / -1" borderBottomWidth="1px" borderColor="rule" />
            </Fragment>
          );
        })}
      </Grid>
    </Box>
  );
}

/** How far the episode is along the order of the work, and the one step that would be next. */
import { Box, Button, Flex } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { memo, useEffect, useState } from "react";
import { Link, useLocation } from "react-router";
import { client, type Episode, type Schemas, take } from "../api/client";
import { useView } from "../view/view";

type Step = Schemas["Step"];

/** It is asked for when edits have come to rest: it counts snags, and follows the Page. */
const SETTLED_MS = 1500;

/** Where on a stage a step is done. */
const PLACE: Partial<Record<Step["name"], string>> = {
  labelled: "?step=label",
  file: "?step=files",
  handed_over: "?step=over",
};

function useStanding(episode: Episode, page: boolean) {
  const shown = useView((v) => v.standing || !page);
  const blank = episode.frames === 0;
  const [settled, setSettled] = useState<number | null>(null);
  useEffect(() => {
    if (!shown && !blank) return;
    const timer = setTimeout(() => setSettled(episode.revision), blank ? 0 : SETTLED_MS);
    return () => clearTimeout(timer);
  }, [episode.revision, shown, blank]);
  return useQuery({
    queryKey: ["standing", episode.id, settled],
    enabled: settled !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(
        client.GET("/api/episodes/{episode_id}/standing", {
          params: { path: { episode_id: episode.id }, query: { revision: settled ?? 0 } },
        }),
      ),
  });
}

interface Props {
  episode: Episode;
  /** It stands above the Page, which comes first. */
  page: boolean;
}

export const NextLine = memo(function NextLine({ episode, page }: Props) {
  const { data } = useStanding(episode, page);
  const here = useLocation();
  const next = data?.steps.find((step) => step.name === data.next);
  const to = (step: Step) => `/episodes/${episode.id}/${step.stage}${PLACE[step.name] ?? ""}`;
  const isHere = next && `${here.pathname}${here.search}` === to(next);
  return (
    <Flex
      as="nav"
      aria-label="Steps of the work"
      h="34px"
      flexShrink="0"
      align="center"
      gap="4"
      px="5"
      fontSize="12.5px"
      borderBottomWidth="1px"
      borderColor="rule"
    >
      <Flex flex="1" minW="0" gap="4" overflow="hidden">
        {data?.steps.map((step) => (
          <Box
            asChild
            key={step.name}
            whiteSpace="nowrap"
            color={step === next ? "ink" : "quiet"}
            fontWeight={step === next ? "700" : "400"}
            data-step={step.name}
            data-done={step.done}
          >
            <Link to={to(step)} onClick={() => arrive(step)}>
              <span aria-hidden="true">{step.done ? "✓ " : "○ "}</span>
              {step.says}
              <Box as="span" srOnly>
                {step.done ? ", done" : ", to do"}
              </Box>
            </Link>
          </Box>
        ))}
      </Flex>
      {next && !isHere && (
        <Button
          asChild
          flexShrink="0"
          size="2xs"
          variant="surface"
          colorPalette="pine"
          data-testid="next-step"
        >
          <Link to={to(next)} onClick={() => arrive(next)}>
            Next: {next.press}
          </Link>
        </Button>
      )}
    </Flex>
  );
});

/** What is shown of the stage that is gone to. */
function arrive(step: Step) {
  if (step.name === "snags") useView.setState({ panel: "Snags" });
}

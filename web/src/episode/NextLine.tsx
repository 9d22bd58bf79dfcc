/** How far the episode is along the order of the work, and the one step that would be next. */
import { Box, Button, Flex } from "@chakra-ui/react";
import { memo } from "react";
import { Link, useLocation } from "react-router";
import type { Episode, Schemas } from "../api/client";
import { addressOf, arrive } from "../view/places";
import { useStanding } from "./standing";

type Step = Schemas["Step"];

interface Props {
  episode: Episode;
  /** It stands above the Page, which comes first. */
  page: boolean;
}

export const NextLine = memo(function NextLine({ episode, page }: Props) {
  const { data } = useStanding(episode, page);
  const here = useLocation();
  const next = data?.steps.find((step) => step.name === data.next);
  const to = (step: Step) => addressOf(step.place, episode.id);
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
            <Link to={to(step)} onClick={() => arrive(step.place)}>
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
          <Link to={to(next)} onClick={() => arrive(next.place)}>
            Next: {next.press}
          </Link>
        </Button>
      )}
    </Flex>
  );
});

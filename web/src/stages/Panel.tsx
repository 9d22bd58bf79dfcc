/** The panel at the right of a stage. */
import { Box, type BoxProps, Button, Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import { PANEL_PX } from "../measures";

export function Panel({ children }: { children: ReactNode }) {
  return (
    <Box
      as="aside"
      w={`${PANEL_PX}px`}
      flexShrink="0"
      overflowY="auto"
      borderLeftWidth="1px"
      borderColor="rule"
      px="4"
      py="4"
    >
      {children}
    </Box>
  );
}

/** What a stage shows of an episode without sound. */
export function NothingYet({ then }: { then: string }) {
  const { episodeId } = useParams();
  return (
    <Flex flex="1" direction="column" gap="4" align="center" justify="center">
      <Text color="quiet">Nothing is recorded yet. Once there is, {then}.</Text>
      <Button asChild size="sm" colorPalette="pine">
        <Link to={`/episodes/${episodeId}/edit`}>Add a recording</Link>
      </Button>
    </Flex>
  );
}

export function Heading({ children }: { children: ReactNode }) {
  return (
    <Text as="h2" fontFamily="heading" fontWeight="700" fontSize="17px" mb="1">
      {children}
    </Text>
  );
}

export function Card({ children, ...rest }: BoxProps & { "data-testid"?: string }) {
  return (
    <Box
      bg="raised"
      borderWidth="1px"
      borderColor="rule"
      borderRadius="10px"
      p="3"
      mb="4"
      {...rest}
    >
      {children}
    </Box>
  );
}

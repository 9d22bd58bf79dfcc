/** Release: tags, artwork, format, and a file that is read back before it is handed over. */
import { Box, Flex } from "@chakra-ui/react";
import type { Context } from "../../actions/action";
import { Panel } from "../Panel";
import { Elsewhere } from "./Elsewhere";
import { Export } from "./Export";
import { TagForm } from "./TagForm";
import { Transcripts } from "./Transcripts";

export function ReleaseStage({ context: { episode } }: { context: Context }) {
  return (
    <Flex flex="1" minH="0">
      <Box flex="1" minW="0" overflowY="auto" px="6" py="4">
        <TagForm episode={episode} />
      </Box>
      <Panel>
        <Export episode={episode} />
        <Transcripts episode={episode} />
        <Elsewhere episode={episode} />
      </Panel>
    </Flex>
  );
}

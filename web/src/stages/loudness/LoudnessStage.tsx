/** Loudness: sections before and after, the curve against the target, and evening out. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect } from "react";
import type { Context } from "../../actions/action";
import { underWay } from "../../api/client";
import { startMeasure, useJobs, useLevels } from "../../api/queries";
import { complain } from "../../theme/toaster";
import { Heading, NothingYet, Panel } from "../Panel";
import { Curve, WHOLE_PX } from "./Curve";
import { Now } from "./Now";
import { Sections } from "./Sections";
import { Settings } from "./Settings";
import { Speakers } from "./Speakers";

export function LoudnessStage({ context: { episode } }: { context: Context }) {
  const { data: levels } = useLevels(episode.id, episode.revision);
  const { data: jobs } = useJobs(episode.id);
  const current = levels?.revision === episode.revision;
  const missing = current && !levels.measured && episode.frames > 0;
  const measuring = jobs?.some((j) => j.kind === "measure" && underWay(j));

  // What is shown here has to be measured first: it starts by itself, once for each revision.
  useEffect(() => {
    if (!missing) return;
    void startMeasure(episode.id, episode.revision).catch(complain);
  }, [missing, episode.id, episode.revision]);

  if (episode.frames === 0) {
    return <NothingYet then="its loudness is shown here" />;
  }
  return (
    <Flex flex="1" minH="0">
      <Box flex="1" minW="0" overflowY="auto" px="6" py="4">
        <Heading>Loudness over time</Heading>
        <Text fontSize="13px" color="quiet" mb="2">
          Three seconds at a time, before and after, and the loudest moment of each second.
          Triangles: peaks that the limiter holds. Click to go there.
        </Text>
        {levels?.measured ? (
          <>
            <Now levels={levels} />
            <Curve levels={levels} episode={episode} />
          </>
        ) : (
          <>
            <Text fontSize="13px" mb="1" color="quiet">
              At the playhead —
            </Text>
            <Flex h={`${WHOLE_PX}px`} align="center" justify="center" bg="wash" borderRadius="8px">
              <Text color="quiet">{measuring ? "Measuring…" : "Not measured yet"}</Text>
            </Flex>
          </>
        )}
        <Sections episode={episode} levels={levels?.measured ? levels : undefined} />
        {levels?.measured && <Speakers episode={episode} levels={levels} />}
      </Box>
      <Panel>
        <Settings episode={episode} levels={levels} ready={Boolean(current && levels.measured)} />
      </Panel>
    </Flex>
  );
}

/** Release, in the order of the work: label it, check it, make its files, hand them over. */
import { Box, Button, Flex, HStack } from "@chakra-ui/react";
import { useSearchParams } from "react-router";
import type { Context } from "../../actions/action";
import { Panel } from "../Panel";
import { Chapters } from "./Chapters";
import { Check } from "./Check";
import { Destinations } from "./Destinations";
import { Elsewhere } from "./Elsewhere";
import { Export } from "./Export";
import { Files } from "./Files";
import { HandOver } from "./HandOver";
import { STEPS, type Step } from "./steps";
import { TagForm } from "./TagForm";
import { Transcripts } from "./Transcripts";

export function ReleaseStage({ context }: { context: Context }) {
  const { episode } = context;
  const [search, setSearch] = useSearchParams();
  const asked = search.get("step") ?? "";
  const step: Step = asked in STEPS ? (asked as Step) : "label";
  const goTo = (next: Step) => setSearch({ step: next }, { replace: true });
  return (
    <Flex flex="1" minH="0">
      <Box flex="1" minW="0" overflowY="auto" px="6" py="4">
        <HStack as="nav" gap="1" mb="4" aria-label="Steps of the release">
          {(Object.keys(STEPS) as Step[]).map((one, number) => (
            <Button
              key={one}
              size="sm"
              variant={one === step ? "subtle" : "ghost"}
              colorPalette="pine"
              aria-current={one === step ? "step" : undefined}
              onClick={() => goTo(one)}
            >
              {number + 1} {STEPS[one]}
            </Button>
          ))}
        </HStack>
        {step === "label" && <TagForm episode={episode} />}
        {step === "check" && <Check episode={episode} />}
        {step === "files" && <Files episode={episode} />}
        {step === "over" && <HandOver episode={episode} />}
      </Box>
      {step === "label" && (
        <Panel>
          <Chapters episode={episode} />
        </Panel>
      )}
      {step === "over" && (
        <Panel>
          <Destinations episode={episode} />
        </Panel>
      )}
      {step === "files" && (
        <Panel>
          <Export episode={episode} />
          <Transcripts episode={episode} />
          <Elsewhere episode={episode} />
        </Panel>
      )}
    </Flex>
  );
}

/** All of a kind at once, after a look at each. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import type { Context } from "../../../actions/action";
import { hear, type Option, optionsOf, show } from "../../../actions/deciding";
import type { Snag } from "../../../api/client";
import { complain } from "../../../theme/toaster";
import { clock } from "../../../time";
import { useView } from "../../../view/view";
import { Ticked, useLeftOut } from "../Ticked";

interface Props {
  context: Context;
  list: Snag[];
  onDone: () => void;
}

export function Review({ context, list, onDone }: Props) {
  const { left, toggle } = useLeftOut<string>();
  const able = list.filter((snag) => snag.does !== "keep");
  const going = able.filter((snag) => !left.has(snag.id));
  const way = (snag: Snag): Option | undefined => optionsOf(snag)[0];
  const says = able[0] ? (way(able[0])?.says ?? "Settle") : "Settle";
  return (
    <Box mt="2" data-testid="review">
      <Text fontSize="13px" color="quiet">
        Take the tick off what is to stay as it is. A click plays it as it would be.
      </Text>
      <Box maxH="320px" overflowY="auto" my="1.5">
        {able.map((snag) => (
          <Ticked
            key={snag.id}
            says={`Settle “${snag.text}” at ${clock(snag.start)}`}
            ticked={!left.has(snag.id)}
            onToggle={() => toggle(snag.id)}
          >
            <Box
              as="button"
              flex="1"
              minW="0"
              textAlign="left"
              fontSize="13px"
              onClick={() => {
                show(snag);
                hear(snag, way(snag) ?? null);
              }}
            >
              <Flex gap="2">
                <Text color="quiet" w="46px" flexShrink="0">
                  {clock(snag.start)}
                </Text>
                <Text fontFamily="script" truncate>
                  {snag.text}
                </Text>
              </Flex>
            </Box>
          </Ticked>
        ))}
      </Box>
      <HStack gap="1.5">
        <Button
          size="sm"
          flex="1"
          colorPalette="pine"
          disabled={!going.length}
          onClick={() => {
            const decisions = going.flatMap((snag) => way(snag)?.decision ?? []);
            void context
              .decide(decisions)
              .then(() => {
                useView.setState({ snag: null });
                useView.getState().select(null);
                onDone();
              })
              .catch(complain);
          }}
        >
          {says} {going.length === 1 ? "this one" : `these ${going.length}`}
        </Button>
        <Button size="sm" variant="outline" onClick={onDone}>
          Not now
        </Button>
      </HStack>
    </Box>
  );
}

/** The snag that is being decided: why it is one, and what can be done, each with its key. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import type { Context } from "../../../actions/action";
import { hear, optionsOf, settle } from "../../../actions/deciding";
import type { Snag } from "../../../api/client";
import { play } from "../../../playback/player";
import { complain } from "../../../theme/toaster";
import { clock, seconds } from "../../../time";
import { Card } from "../../Panel";

interface Props {
  context: Context;
  snag: Snag;
  name: string;
}

export function Chosen({ context, snag, name }: Props) {
  const options = optionsOf(snag);
  return (
    <Box mt="2.5">
      <Card data-testid="snag">
        <Flex justify="space-between" align="baseline" fontSize="13px">
          <b>{name}</b>
          <Text color="quiet">
            {clock(snag.start)}
            {snag.saves > 0 && ` · saves ${seconds(snag.saves)}`}
          </Text>
        </Flex>
        {snag.attempts.length > 0 ? (
          <Attempts snag={snag} />
        ) : (
          snag.kind === "filler" && (
            <Text fontFamily="script" fontSize="16px">
              {snag.text}
            </Text>
          )
        )}
        <Text fontSize="13px" color="quiet" mb="2">
          {sentence(snag.reason)}
        </Text>
        <Flex gap="1.5" wrap="wrap">
          {options.map((option, i) => (
            <Button
              key={option.says}
              size="xs"
              px="2"
              variant={i === 0 && option.decision.do !== "keep" ? "solid" : "outline"}
              colorPalette={i === 0 && option.decision.do !== "keep" ? "pine" : undefined}
              onClick={() => void settle(context, snag, option).catch(complain)}
            >
              {option.says}
              <Key>{option.decision.do === "keep" ? "0" : i + 1}</Key>
            </Button>
          ))}
        </Flex>
        <HStack gap="1.5" mt="1.5">
          {options.length > 1 && (
            <Button
              size="xs"
              px="2"
              variant="ghost"
              onClick={() => hear(snag, options[0] ?? null)}
              title="What it sounds like with what is proposed"
            >
              Hear the result <Key>H</Key>
            </Button>
          )}
          <Button size="xs" px="2" variant="ghost" onClick={() => hear(snag, null)}>
            Hear the original
          </Button>
        </HStack>
      </Card>
    </Box>
  );
}

const sentence = (reason: string) => `${reason.charAt(0).toUpperCase()}${reason.slice(1)}.`;

function Key({ children }: { children: string | number }) {
  return (
    <Box as="kbd" fontSize="11px" opacity="0.75" fontFamily="inherit" aria-hidden="true">
      {children}
    </Box>
  );
}

/** The attempts of a repeat, to be compared. */
function Attempts({ snag }: { snag: Snag }) {
  return (
    <Box as="ol" my="1.5" pl="0" listStyleType="none">
      {snag.attempts.map((attempt, i) => (
        <Flex as="li" key={attempt.start} gap="1.5" align="flex-start" mb="1">
          <Button
            size="2xs"
            variant="outline"
            px="1.5"
            mt="0.5"
            aria-label={`Hear attempt ${i + 1}`}
            onClick={() => play(attempt.start, attempt.start + attempt.frames)}
          >
            Hear
          </Button>
          <Text fontFamily="script" fontSize="15px" lineHeight="1.3" lineClamp="3">
            {attempt.text}
          </Text>
        </Flex>
      ))}
    </Box>
  );
}

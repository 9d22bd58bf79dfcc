/** What counts as a snag in this episode. */
import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Context } from "../../../actions/action";
import type { Snags as All } from "../../../api/client";
import { useEdit } from "../../../api/queries";
import { Pick } from "../../../theme/Pick";

const LIMITS = [1, 1.5, 2, 3, 5] as const;

export function Rules({ context, data }: { context: Context; data: All }) {
  const edit = useEdit(context.episode.id);
  const [text, setText] = useState("");
  const own = data.own_fillers;
  const set = (next: Partial<Counts>) =>
    edit.mutate({
      kind: "set_snag_rules",
      air_limit_s: data.air_limit_s,
      own_fillers: own,
      ...next,
    });
  const limits = [...new Set([...LIMITS, data.air_limit_s])].sort((a, b) => a - b);
  return (
    <Box as="details" mt="3" fontSize="13px">
      <Box as="summary" cursor="pointer" color="quiet">
        What counts as a snag
      </Box>
      <Flex align="center" justify="space-between" mt="2">
        <Text>Air counts as long from</Text>
        <Pick
          name="Air counts as long from"
          w="90px"
          value={String(data.air_limit_s)}
          options={limits.map((s) => [String(s), `${s.toFixed(1)} s`] as const)}
          onPick={(value) => set({ air_limit_s: Number(value) })}
        />
      </Flex>
      <Text mt="2">Your own fillers</Text>
      {own.map((filler) => (
        <Flex key={`${filler.text}:${filler.at_start}`} align="center" gap="1.5">
          <Text flex="1" fontFamily="script">
            “{filler.text}”{filler.at_start && " at the start of a sentence"}
          </Text>
          <Button
            size="2xs"
            variant="ghost"
            aria-label={`Take “${filler.text}” off the list`}
            onClick={() => set({ own_fillers: own.filter((one) => one !== filler) })}
          >
            Off the list
          </Button>
        </Flex>
      ))}
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const wanted = text.trim();
          if (!wanted) return;
          const at_start = wanted.endsWith("…");
          set({ own_fillers: [...own, { text: wanted.replace(/…$/, "").trim(), at_start }] });
          setText("");
        }}
      >
        <Input
          size="xs"
          mt="1"
          aria-label="A filler of your own"
          placeholder="you know · so… for a sentence’s start"
          value={text}
          maxLength={60}
          onChange={(event) => setText(event.target.value.replace("...", "…"))}
        />
      </form>
    </Box>
  );
}

interface Counts {
  air_limit_s: All["air_limit_s"];
  own_fillers: All["own_fillers"];
}

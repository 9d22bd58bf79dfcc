/** How loud it is where the playhead is, as it was measured. */
import { Text } from "@chakra-ui/react";
import { useRef } from "react";
import { type Levels, RATE } from "../../api/client";
import { usePlayhead } from "../../playback/playhead";
import { figure } from "../../time";

export function Now({ levels }: { levels: Levels }) {
  const out = useRef<HTMLSpanElement>(null);
  usePlayhead((at) => {
    const second = Math.max(0, Math.round(at / RATE - 1.5));
    if (out.current) out.current.textContent = figure(levels.curve_after[second], "LUFS");
  });
  return (
    <Text fontSize="13px" mb="1">
      At the playhead <b ref={out} data-testid="now" />
    </Text>
  );
}

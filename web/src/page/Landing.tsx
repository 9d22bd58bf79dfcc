/** Where a recording will go: a bar, or the span that it goes over, and a word for it. */
import { Box } from "@chakra-ui/react";
import type { LineSpan } from "./span";

export interface LandingMark {
  at: number;
  /** Frames that it goes over. */
  frames: number;
  says: string;
}

interface Props extends LineSpan {
  mark: LandingMark;
  total: number;
}

export function Landing({ mark, total, start, frames, width }: Props) {
  const end = start + frames;
  const atEnd = mark.at === total && mark.at === end;
  if (mark.at + mark.frames < start || (mark.at >= end && !atEnd)) return null;
  if (mark.at < start && mark.at + mark.frames === start) return null;
  const left = Math.max(0, ((mark.at - start) / frames) * width);
  const right = Math.min(width, ((mark.at + mark.frames - start) / frames) * width);
  const beginsHere = mark.at >= start;
  const late = left > width * 0.6;
  return (
    <Box
      data-testid="landing-mark"
      position="absolute"
      top="-4px"
      bottom="0"
      zIndex="2"
      left={`${left}px`}
      w={`${Math.max(0, right - left)}px`}
      borderLeftWidth={beginsHere ? "3px" : "0"}
      borderRightWidth={mark.frames ? "3px" : "0"}
      borderStyle="dashed"
      borderColor="trouble"
      pointerEvents="none"
    >
      {beginsHere && (
        <Box
          position="absolute"
          top="-2px"
          {...(late ? { right: mark.frames ? "100%" : "6px" } : { left: "3px" })}
          px="2"
          bg="trouble"
          color="pine.contrast"
          fontSize="12px"
          lineHeight="18px"
          borderRadius="3px"
          whiteSpace="nowrap"
        >
          {mark.says}
        </Box>
      )}
    </Box>
  );
}

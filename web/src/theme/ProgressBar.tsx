/** How far something is. It jumps: a bar that glides is laid out anew for every picture. */
import { Progress } from "@chakra-ui/react";

interface Props extends Omit<Progress.RootProps, "value"> {
  /** 0 to 1. */
  value: number;
}

export function ProgressBar({ value, ...root }: Props) {
  return (
    <Progress.Root value={value * 100} size="xs" colorPalette="pine" {...root}>
      <Progress.Track>
        <Progress.Range transition="none" />
      </Progress.Track>
    </Progress.Root>
  );
}

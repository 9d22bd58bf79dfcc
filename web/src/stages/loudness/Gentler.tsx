/** What would spare the limiter work that is heard, each by one press that can be undone. */
import { Button, HStack } from "@chakra-ui/react";
import type { Edit, Episode } from "../../api/client";
import { useEdit } from "../../api/queries";
import { useCheck } from "../release/Check";

const LOWER_LU = 2;
const LOWEST_LUFS = -36;

interface Props {
  episode: Episode;
  /** It is what would be next here. */
  next: boolean;
  onTarget: (lufs: number) => void;
}

export function Gentler({ episode, next, onTarget }: Props) {
  const { data } = useCheck(episode);
  const edit = useEdit(episode.id);
  const remedy = data?.lines.find((line) => line.id === "peaks")?.remedy;
  const lower = Math.max(LOWEST_LUFS, episode.loudness.target - LOWER_LU);
  return (
    <HStack mt="2" gap="1.5" wrap="wrap" data-testid="gentler">
      {remedy?.edit && (
        <Button
          size="xs"
          colorPalette="pine"
          variant={next ? "solid" : "outline"}
          onClick={() => edit.mutate(remedy.edit as Edit)}
        >
          {remedy.says}
        </Button>
      )}
      <Button size="xs" variant="outline" onClick={() => onTarget(lower)}>
        Aim {LOWER_LU} LU lower
      </Button>
    </HStack>
  );
}

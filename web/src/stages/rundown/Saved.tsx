/** What the undecided snags would save. They are looked for once the rows stand there, which on a
 * long episode takes a while. */
import { Text } from "@chakra-ui/react";
import type { Episode } from "../../api/client";
import { useSnags } from "../../api/queries";
import { clock } from "../../time";

export function Saved({ episode }: { episode: Episode }) {
  const { data } = useSnags(episode.id, episode.revision);
  const open = data?.snags.filter((snag) => !snag.kept) ?? [];
  const frames = open.reduce((sum, snag) => sum + snag.saves, 0);
  if (!frames) return null;
  return (
    <Text mt="2" fontSize="12px" color="quiet">
      Settling all open snags would take out another {clock(frames, 0)}.
    </Text>
  );
}

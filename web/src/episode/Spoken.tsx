/** What was done and how long the episode is now, for those who hear the screen. */
import { Box } from "@chakra-ui/react";
import { memo, useEffect, useRef, useState } from "react";
import type { Episode } from "../api/client";
import { clock } from "../time";

export const Spoken = memo(function Spoken({ episode }: { episode: Episode }) {
  const [said, setSaid] = useState("");
  const before = useRef(episode);
  useEffect(() => {
    const { id, revision, undo } = before.current;
    before.current = episode;
    if (id !== episode.id || revision === episode.revision) return;
    const done = undo !== null && episode.redo === undo ? `Undone: ${undo}` : episode.undo;
    setSaid(`${done ?? "As it began"}. ${clock(episode.frames)} long.`);
  }, [episode]);
  return (
    <Box srOnly aria-live="polite" data-testid="spoken">
      {said}
    </Box>
  );
});

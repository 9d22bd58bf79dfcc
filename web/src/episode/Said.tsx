/** What the last change did, and how long the episode is now, for whoever hears the screen. */
import { Box } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { type Episode, RATE } from "../api/client";

/** A moment after the Page shows it: what was pressed is heard first. */
const AFTER_MS = 300;

export function Said({ episode }: { episode: Episode }) {
  const [said, setSaid] = useState("");
  const shown = useRef(episode);
  shown.current = episode;
  const before = useRef(episode);
  const { revision } = episode;
  useEffect(() => {
    const last = before.current;
    if (revision === last.revision) return;
    const timer = setTimeout(() => {
      const now = shown.current;
      const undone = last.undo !== null && now.redo === last.undo;
      const what = undone ? `Undone: ${last.undo}.` : `${now.undo ?? "Changed"}.`;
      setSaid(now.frames === last.frames ? what : `${what} Now ${inWords(now.frames)} long.`);
      before.current = now;
    }, AFTER_MS);
    return () => clearTimeout(timer);
  }, [revision]);
  return (
    <Box srOnly aria-live="polite" data-testid="said">
      {said}
    </Box>
  );
}

/** A length as one says it. */
function inWords(frames: number): string {
  const seconds = Math.round(frames / RATE);
  const parts: [number, string][] = [
    [Math.floor(seconds / 3600), "hour"],
    [Math.floor(seconds / 60) % 60, "minute"],
    [seconds % 60, "second"],
  ];
  return (
    parts
      .filter(([count]) => count)
      .map(([count, one]) => `${count} ${one}${count === 1 ? "" : "s"}`)
      .join(" ") || "nothing"
  );
}

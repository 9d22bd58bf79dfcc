/** The part of the Page where a recording will go, with its place marked; here too, a click places the
 * playhead and a drag selects. */
import { Box, Text } from "@chakra-ui/react";
import { useLayoutEffect, useRef, useState } from "react";
import { type Episode, type Landing, RATE } from "../../api/client";
import { useEdit } from "../../api/queries";
import { GUTTER_PX } from "../../measures";
import type { LandingMark } from "../../page/Landing";
import { LineOf } from "../../page/Page";
import { usePointer } from "../../page/usePointer";
import { Heading } from "../Panel";

const LINE_S = 10;

interface Props {
  episode: Episode;
  landing: Landing;
  tracks: string[];
}

export function LandingLines({ episode, landing, tracks }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    if (!box.current) return;
    const watch = new ResizeObserver(([entry]) =>
      setWidth(Math.max(200, (entry?.contentRect.width ?? 0) - GUTTER_PX - 12)),
    );
    watch.observe(box.current);
    return () => watch.disconnect();
  }, []);
  const pointer = usePointer(episode);
  const edit = useEdit(episode.id);
  const at = landing.at ?? episode.frames;
  const per = LINE_S * RATE;
  // A place at the very end of a line is shown on that line, not on one that is not there yet.
  const line = Math.floor(Math.max(0, at - (at === episode.frames ? 1 : 0)) / per);
  const last = Math.floor(Math.max(0, at + landing.replacing - 1) / per);
  // What comes before is shown too where the place is near the beginning of its line.
  const early = at - line * per < per / 5;
  const first = Math.max(0, line - (early ? 1 : 0));
  const lines = Array.from({ length: Math.min(3, last - first + 1) }, (_, i) => first + i);
  const mark: LandingMark = {
    at,
    frames: landing.replacing,
    says: `${landing.replacing ? "Goes over this" : "Goes here"}: ${tracks.join(" and ")}`,
  };
  return (
    <Box ref={box} data-testid="landing-lines" userSelect="none" mt="6" {...pointer}>
      <Heading>On the Page</Heading>
      <Text fontSize="13px" color="quiet" mb="3">
        Click to place the playhead, drag to select.
      </Text>
      {width > 0 &&
        lines.map((index) => (
          <LineOf
            key={index}
            episode={episode}
            index={index}
            lineSeconds={LINE_S}
            width={width}
            landing={mark}
            onEdit={edit.mutate}
          />
        ))}
    </Box>
  );
}

/** What is done most with what is selected, under the line where the selection ends. */
import { Box, Button, HStack, Text } from "@chakra-ui/react";
import { useContext, useEffect, useState } from "react";
import { trackOf } from "../actions/selection";
import type { Episode, PageData } from "../api/client";
import { type Span, useView } from "../view/view";
import { Do, OnPage } from "./Do";
import { OnLine } from "./OnLine";

/** It comes when the selection has come to rest: it is not in the way of one that is being made. */
const RESTED_MS = 300;
const WIDTH_PX = 330;

interface Props {
  page: PageData | undefined;
  start: number;
  frames: number;
  width: number;
}

export function SelectionBar({ page, start, frames, width }: Props) {
  const context = useContext(OnPage);
  const ends = useView(
    ({ selection: s }) => s !== null && s.end > start && s.end <= start + frames,
  );
  return ends && context ? <Rested {...{ page, start, frames, width }} /> : null;
}

function Rested({ page, start, frames, width }: Props) {
  const selection = useView((v) => v.selection);
  const [rested, setRested] = useState<Span | null>(null);
  useEffect(() => {
    const timer = setTimeout(() => setRested(selection), RESTED_MS);
    return () => clearTimeout(timer);
  }, [selection]);
  // A snag that is being decided has a card of its own.
  const deciding = useView(({ snag, snags }) => snags.find((one) => one.id === snag));
  if (!selection || rested !== selection || deciding?.start === selection.start) return null;
  const x = ((selection.end - start) / frames) * width;
  return (
    <HStack
      data-testid="selection-bar"
      role="toolbar"
      aria-label="What is selected"
      position="absolute"
      zIndex="3"
      top="calc(100% - 2px)"
      left={`${Math.max(0, Math.min(width, x + 8) - WIDTH_PX)}px`}
      w={`${WIDTH_PX}px`}
      justify="flex-end"
      gap="1"
      onPointerDown={(event) => event.stopPropagation()}
    >
      <HStack
        gap="1"
        p="1"
        bg="raised"
        borderWidth="1px"
        borderColor="rule"
        rounded="8px"
        boxShadow="sm"
      >
        <Most page={page} selection={selection} />
        <More />
      </HStack>
    </HStack>
  );
}

/** Words, air, or music: each has its own. */
function Most({ page, selection }: { page: PageData | undefined; selection: Span }) {
  const context = useContext(OnPage);
  useView((v) => v.track);
  if (!context) return null;
  const words = page?.words.some((w) => w.start < selection.end && w.end > selection.start);
  const track = context.episode.tracks.find((one) => one.id === trackOf(context.episode));
  const hear = (
    <Do id="play-selection" small>
      Hear it
    </Do>
  );
  const cut = (
    <Do id="cut" small main>
      Cut
    </Do>
  );
  if (track?.kind === "music" && !words) {
    return (
      <>
        {cut}
        {hear}
        <Do id="fade-in" small>
          Fade in
        </Do>
        <Do id="fade-out" small>
          Fade out
        </Do>
      </>
    );
  }
  return (
    <>
      {cut}
      {hear}
      <Do id={words ? "cover" : "set-air"} small>
        {words ? "Cover" : "Air 0.6 s"}
      </Do>
      <Do id={words ? "copy" : "room-tone"} small>
        {words ? "Copy" : "As room tone"}
      </Do>
    </>
  );
}

/** The rest, by what it is about. */
function More() {
  const [open, setOpen] = useState(false);
  const context = useContext(OnPage);
  if (!context) return null;
  const close = () => setOpen(false);
  return (
    <OnLine
      label="More for the selection"
      open={open}
      onOpen={setOpen}
      trigger={
        <Button size="2xs" variant="ghost">
          More
        </Button>
      }
    >
      <Box data-testid="more-to-do">
        {Object.entries(rest(context.episode)).map(([group, actions]) => (
          <Box key={group} mb="2">
            <Text fontSize="12px" color="quiet" mb="1">
              {group}
            </Text>
            <HStack wrap="wrap" gap="1.5">
              {actions.map(([id, says]) => (
                <Do key={id} id={id} onDone={close}>
                  {says}
                </Do>
              ))}
            </HStack>
          </Box>
        ))}
      </Box>
    </OnLine>
  );
}

const rest = (episode: Episode): Record<string, [id: string, says: string][]> => {
  const several = episode.tracks.length > 1;
  const name = episode.tracks.find((one) => one.id === trackOf(episode))?.name ?? "this track";
  return {
    "On every track": [
      ["loop", "Loop"],
      ["keep-only", "Keep only"],
      ["copy", "Copy"],
      ["move", "Move…"],
      ["move-front", "To the front"],
      ["set-air", "Air 0.6 s"],
      ["retake", "Retake"],
    ],
    [several ? `On ${name} alone` : "Timing kept"]: [
      ["cover", "Cover"],
      ["silence", "Silence"],
      ...(several ? ([["cut-alone", "Cut alone"]] as [string, string][]) : []),
      ["quieter", "−1 dB"],
      ["louder", "+1 dB"],
      ["fade-in", "Fade in"],
      ["fade-out", "Fade out"],
    ],
    "Keep it": [
      ["section", "Section"],
      ["room-tone", "Take it as room tone"],
      ["keep-sound", "Keep it as a sound"],
    ],
  };
};

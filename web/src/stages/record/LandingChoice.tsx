/** Where a recording will go, in words, before it is made. */
import { RadioGroup, Stack, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import type { Episode, Landing } from "../../api/client";
import { type Span, useView } from "../../page/view";
import { usePlayer } from "../../playback/player";
import { clock, seconds } from "../../time";
import { Card } from "../Panel";

export const AFTER: Landing = { at: null, replacing: 0, alongside: false };

type Way = "after" | "here" | "over" | "beside";

interface Props {
  episode: Episode;
  tracks: string[];
  value: Landing;
  onSet: (landing: Landing) => void;
}

export function LandingChoice({ episode, tracks, value, onSet }: Props) {
  const at = usePlayer((p) => p.at);
  const selection = useView((v) => v.selection);
  const [way, setWay] = useState<Way>("after");
  const chosen = way === "over" && !selection ? "after" : way;
  const landing = landingOf(chosen, at, selection);
  useEffect(() => {
    if (JSON.stringify(landing) !== JSON.stringify(value)) onSet(landing);
  }, [landing, value, onSet]);
  const onto = `on ${tracks.map((t) => `“${t}”`).join(" and ")}`;
  const empty = episode.frames === 0;
  return (
    <Card data-testid="landing">
      <RadioGroup.Root
        value={chosen}
        onValueChange={(e) => setWay(e.value as Way)}
        size="sm"
        colorPalette="pine"
      >
        <Stack gap="3">
          <Choice
            way="after"
            name={empty ? "At the start" : "After what is there"}
            what={empty ? onto : `at ${clock(episode.frames)}, ${onto}`}
          />
          {!empty && (
            <>
              <Choice
                way="here"
                name="At the playhead"
                what={`at ${clock(at)}; everything later moves back to make room`}
              />
              <Choice
                way="over"
                disabled={!selection}
                name="Over the selection"
                what={
                  selection
                    ? `${clock(selection.start)}, ${seconds(selection.end - selection.start)}; what is there is kept at the splice`
                    : "select something on the Edit stage first"
                }
              />
              <Choice
                way="beside"
                name="Beside what is there"
                what={`from ${clock(at)}, ${onto}; nothing moves`}
              />
            </>
          )}
        </Stack>
      </RadioGroup.Root>
    </Card>
  );
}

function landingOf(way: Way, at: number, selection: Span | null): Landing {
  const span = way === "over" ? selection : null;
  return {
    at: way === "after" ? null : (span?.start ?? at),
    replacing: span ? span.end - span.start : 0,
    alongside: way === "beside",
  };
}

interface ChoiceProps {
  way: Way;
  name: string;
  what: string;
  disabled?: boolean;
}

function Choice({ way, name, what, disabled }: ChoiceProps) {
  return (
    <RadioGroup.Item value={way} disabled={disabled} alignItems="flex-start">
      <RadioGroup.ItemHiddenInput />
      <RadioGroup.ItemIndicator mt="0.5" />
      <RadioGroup.ItemText fontWeight="400">
        {name}
        <Text fontSize="12px" color="quiet">
          {what}
        </Text>
      </RadioGroup.ItemText>
    </RadioGroup.Item>
  );
}

/** Where a recording will go, in words, before it is made. */
import { RadioGroup, Stack, Text } from "@chakra-ui/react";
import type { Episode, Landing } from "../../api/client";
import { usePlayer } from "../../playback/player";
import { chooseWay, useLanding, type Way } from "../../record/landing";
import { clock, seconds } from "../../time";
import { useView } from "../../view/view";
import { Card } from "../Panel";

export function LandingChoice({ episode, tracks }: { episode: Episode; tracks: string[] }) {
  const at = usePlayer((p) => p.at);
  const selection = useView((v) => v.selection);
  const { way: chosen } = useLanding();
  const onto = `on ${tracks.map((t) => `“${t}”`).join(" and ")}`;
  const empty = episode.frames === 0;
  return (
    <Card data-testid="landing">
      <RadioGroup.Root
        value={chosen}
        onValueChange={(e) => chooseWay(e.value as Way)}
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
                    : "select something on the Page first"
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

/** A landing in words, for what is being recorded or was left. */
export function told(landing: Landing, tracks: readonly string[]): string {
  const onto = `on ${tracks.map((t) => `“${t}”`).join(" and ")}`;
  if (typeof landing.at !== "number") return `After what is there, ${onto}.`;
  if (landing.replacing) {
    return `Over ${seconds(landing.replacing)} from ${clock(landing.at)}, ${onto}. What is there is kept at the splice.`;
  }
  const moves = landing.alongside ? "Nothing moves." : "Everything later makes room.";
  return `At ${clock(landing.at)}, ${onto}. ${moves}`;
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

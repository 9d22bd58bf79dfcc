/** Sounds at hand: keys 1 to 9 play sounds of the show's shelf in while it is recorded. */
import { Box, Button, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useRef } from "react";
import { useProvided } from "../../actions/provided";
import { AT_HAND } from "../../actions/record";
import { type Episode, RATE } from "../../api/client";
import { audio } from "../../playback/audio";
import { LONGEST_FRAMES, playIn, prepare, setLevel, useAtHand } from "../../record/athand";
import { useCapture } from "../../record/capture";
import { Dial } from "../../theme/Dial";
import { clock } from "../../time";
import { Card, Heading } from "../Panel";
import { type ShelfSound, useAddShipped, useShelf } from "../rundown/sounds";

const long = (sound: ShelfSound) => sound.end - sound.start > LONGEST_FRAMES;

export function AtHand({ episode }: { episode: Episode }) {
  const { data: shelf } = useShelf(episode);
  const shipped = useAddShipped(episode);
  const sounding = useAtHand((h) => h.sounding);
  const levelDb = useAtHand((h) => h.levelDb);
  const on = useCapture((c) => c.phase === "on");
  const sounds = useMemo(
    () =>
      (shelf ?? [])
        .filter((sound) => sound.at_key !== null)
        .sort((a, b) => (a.at_key ?? 0) - (b.at_key ?? 0)),
    [shelf],
  );
  const press = (key: string) => {
    const sound = sounds.find((one) => String(one.at_key) === key);
    if (sound && !long(sound)) void playIn(sound);
  };
  useProvided(Object.fromEntries(AT_HAND.map((key) => [`sound-${key}`, () => press(key)])));

  // Once the microphone is on they are fetched: a key then plays at once.
  useEffect(() => {
    for (const sound of on ? sounds : []) if (!long(sound)) void prepare(sound).catch(() => {});
  }, [on, sounds]);

  return (
    <>
      <Heading>Sounds at hand</Heading>
      <Card data-testid="at-hand">
        {shelf?.length === 0 && (
          <>
            <Text fontSize="13px" color="quiet" mb="2">
              Keys 1 to 9 play sounds of this show in while you speak. There are none yet: add yours
              in the Rundown, or take the three that come with Air Trim.
            </Text>
            <Button
              size="xs"
              variant="outline"
              loading={shipped.isPending}
              onClick={() => shipped.mutate(undefined)}
            >
              Take the three
            </Button>
          </>
        )}
        {sounds.map((sound) => (
          <Button
            key={sound.id}
            size="xs"
            variant={sounding === sound.id ? "solid" : "ghost"}
            colorPalette={sounding === sound.id ? "pine" : undefined}
            justifyContent="flex-start"
            w="100%"
            px="1"
            aria-pressed={sounding === sound.id}
            disabled={long(sound)}
            title={long(sound) ? "Longer than five minutes: place it in the Rundown" : undefined}
            onClick={() => void playIn(sound)}
          >
            <Box
              as="kbd"
              borderWidth="1px"
              borderColor="currentColor"
              rounded="4px"
              px="1.5"
              fontSize="11px"
            >
              {sound.at_key}
            </Box>
            <Text as="span" flex="1" textAlign="left" truncate>
              {sound.name}
            </Text>
            {sounding === sound.id ? <Left sound={sound} /> : clock(sound.end - sound.start, 0)}
          </Button>
        ))}
        {sounds.length > 0 && (
          <Box mt="2">
            <Dial
              says="How loud they are"
              unit="dB"
              value={levelDb}
              low={-30}
              high={6}
              step={1}
              onTry={setLevel}
              onSet={setLevel}
            />
            <Text fontSize="12px" color="quiet">
              You and your guests hear them, on a track of their own. The same key ends one early.
            </Text>
          </Box>
        )}
      </Card>
    </>
  );
}

/** How much of a sound is left; written as it plays, without drawing anything else. */
function Left({ sound }: { sound: ShelfSound }) {
  const text = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    let frame = 0;
    const show = () => {
      const played = (audio().currentTime - useAtHand.getState().began) * RATE;
      const left = Math.max(0, sound.end - sound.start - played);
      if (text.current) text.current.textContent = `−${clock(left, 0)}`;
      frame = requestAnimationFrame(show);
    };
    show();
    return () => cancelAnimationFrame(frame);
  }, [sound]);
  return <span ref={text} style={{ fontVariantNumeric: "tabular-nums" }} />;
}

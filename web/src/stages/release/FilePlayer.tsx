/** A finished file played as listeners will: from the file itself, chapter by chapter, with what is
 * said running along. */
import { Box, Button, Flex, IconButton, Slider, Text } from "@chakra-ui/react";
import { Pause, Play } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { type Episode, RATE } from "../../api/client";
import { useEpisodeAt } from "../../api/queries";
import { stop } from "../../playback/player";
import { complain } from "../../theme/toaster";
import { clock } from "../../time";
import { FileStrip } from "./FileStrip";

interface Props {
  src: string;
  seconds: number;
  lufs: (number | null)[];
  episode: Episode;
  /** The state of the episode that the file was made of. */
  revision: number;
}

export function FilePlayer({ src, seconds, lufs, episode, revision }: Props) {
  const audio = useRef<HTMLAudioElement>(null);
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(0);
  const [said, setSaid] = useState("");
  const { data: then = episode } = useEpisodeAt(
    episode.id,
    revision,
    revision !== episode.revision,
  );
  const chapters = then.markers.filter((marker) => marker.kind === "chapter");
  const current = chapters.findLast((one) => one.at / RATE <= at + 0.05);
  const from = (second: number) => {
    if (!audio.current) return;
    audio.current.currentTime = second;
    setAt(second);
  };
  const toggle = () => {
    const sound = audio.current;
    if (!sound) return;
    if (!sound.paused) return sound.pause();
    stop();
    sound.play().catch((error: Error) => error.name !== "AbortError" && complain(error));
  };
  useEffect(() => {
    const track = audio.current?.textTracks[0];
    if (!track) return;
    const follow = () => setSaid([...(track.activeCues ?? [])].map(lineOf).join(" "));
    track.addEventListener("cuechange", follow);
    return () => track.removeEventListener("cuechange", follow);
  }, []);
  return (
    <Box>
      <audio
        ref={audio}
        src={src}
        preload="none"
        onPlay={({ currentTarget }) => {
          setPlaying(true);
          // Read once it is listened to; shown below and not by the browser.
          for (const track of currentTarget.textTracks) track.mode = "hidden";
        }}
        onPause={() => setPlaying(false)}
        onEnded={() => setPlaying(false)}
        onTimeUpdate={(event) => setAt(event.currentTarget.currentTime)}
      >
        <track
          kind="captions"
          label="Transcript"
          src={`/api/episodes/${episode.id}/transcript?revision=${revision}&format=vtt`}
        />
      </audio>
      <Flex gap="3" align="center">
        <IconButton
          size="xs"
          variant="outline"
          aria-label={playing ? "Pause the file" : "Play the file"}
          onClick={toggle}
        >
          {playing ? <Pause size={13} /> : <Play size={13} />}
        </IconButton>
        <Box flex="1">
          <FileStrip lufs={lufs} target={then.loudness.target} heard={at / Math.max(1, seconds)} />
          <Slider.Root
            size="sm"
            min={0}
            max={Math.max(1, seconds)}
            step={0.1}
            value={[Math.min(at, seconds)]}
            aria-label={["Where in the file"]}
            onValueChange={({ value }) => from(value[0] ?? 0)}
          >
            <Slider.Control>
              <Slider.Track>
                <Slider.Range />
              </Slider.Track>
              <Slider.Thumb index={0} />
            </Slider.Control>
          </Slider.Root>
        </Box>
        <Text fontSize="12px" color="quiet" w="92px" textAlign="right">
          {clock(at * RATE, 0)} of {clock(seconds * RATE, 0)}
        </Text>
      </Flex>
      {(said || playing) && (
        <Text data-testid="said" fontFamily="script" minH="1.5em" mt="1">
          {said}
        </Text>
      )}
      {chapters.length > 0 && (
        <Flex gap="1" wrap="wrap" mt="1">
          {chapters.map((one) => (
            <Button
              key={one.id}
              size="2xs"
              variant={one === current ? "subtle" : "ghost"}
              onClick={() => from(one.at / RATE)}
            >
              {one.name || "Chapter"}
            </Button>
          ))}
        </Flex>
      )}
    </Box>
  );
}

/** A line of the transcript as it is read: who, and what. */
function lineOf(cue: TextTrackCue): string {
  const { text } = cue as VTTCue;
  const who = /^<v ([^>]+)>/.exec(text)?.[1];
  const what = (cue as VTTCue).getCueAsHTML().textContent ?? "";
  return who ? `${who}: ${what}` : what;
}

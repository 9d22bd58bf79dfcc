/** Choosing microphones, seeing their levels, and trying them for five seconds. */
import { Box, Button, Flex, HStack, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { type Episode, type Schemas, takeBytes } from "../../api/client";
import { type Device, listDevices } from "../../record/microphones";
import {
  closeMicrophones,
  listen,
  type Microphone,
  openMicrophones,
  useRecorder,
} from "../../record/recorder";
import { findAgain, type Remembered, recall, remember } from "../../record/remembered";
import { complain } from "../../theme/toaster";
import { Card, Heading } from "../Panel";
import { LevelMeter } from "./LevelMeter";

const TRY_S = 5;

export interface Choice {
  devices: Device[];
  microphones: Microphone[];
  missing: string | null;
  set: (microphones: Microphone[]) => void;
}

/** The microphones the host uses: those remembered, or the machine's own choice. */
export function useMicrophones(episode: Episode): Choice {
  const [devices, setDevices] = useState<Device[]>([]);
  const [wanted, setWanted] = useState<Remembered[]>(recall);
  const phase = useRecorder((r) => r.phase);
  const opened = phase === "ready";
  // Names are told only once a microphone has been opened, so the list is made again then.
  useEffect(() => {
    const list = () => void listDevices().then(setDevices);
    list();
    if (!opened) return;
    navigator.mediaDevices?.addEventListener("devicechange", list);
    return () => navigator.mediaDevices?.removeEventListener("devicechange", list);
  }, [opened]);

  const voice = episode.tracks.find((t) => t.kind === "voice")?.name ?? "Voice";
  const kept = wanted.length ? wanted : [{ device: "", name: "", track: voice }];
  const found = kept.map((m) => ({ ...m, device: findAgain(devices, m)?.id ?? "" }));
  const lost = devices.length ? kept.find((m) => !findAgain(devices, m)) : undefined;
  return {
    devices,
    microphones: found,
    missing: lost ? `“${lost.name}” is not plugged in. Another one is used until it is.` : null,
    set: (microphones) => {
      const named = microphones.map((m) => ({
        ...m,
        name: devices.find((d) => d.id === m.device)?.name ?? "",
      }));
      setWanted(named);
      remember(named);
      const { phase: now } = useRecorder.getState();
      if (now === "ready") void openMicrophones(microphones);
    },
  };
}

export function Microphones({ choice }: { choice: Choice }) {
  const { phase, levels, trouble } = useRecorder();
  const { microphones, devices, set } = choice;
  const on = phase === "ready";
  const put = (index: number, change: Partial<Microphone>) =>
    set(microphones.map((m, i) => (i === index ? { ...m, ...change } : m)));
  return (
    <>
      <Heading>Microphone{microphones.length > 1 ? "s" : ""}</Heading>
      <Text fontSize="13px" color="quiet" mb="3">
        Each goes to a track of its own, all in time with one another.
      </Text>
      {(trouble ?? choice.missing) && (
        <Text color="trouble" mb="3" role="alert">
          {trouble ?? choice.missing}
        </Text>
      )}
      {microphones.map((microphone, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a microphone is its place in the list
        <Card key={index} data-testid="microphone">
          <Flex gap="3" align="flex-end" mb="3">
            <Box flex="1" minW="0">
              <Text fontSize="13px" mb="1">
                Device
              </Text>
              <NativeSelect.Root size="sm">
                <NativeSelect.Field
                  aria-label="Device"
                  value={microphone.device}
                  onChange={(event) => put(index, { device: event.target.value })}
                >
                  <option value="">The machine’s own choice</option>
                  {devices.map((device) => (
                    <option key={device.id} value={device.id}>
                      {device.name}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Box>
            <Box w="190px">
              <Text fontSize="13px" mb="1">
                Track
              </Text>
              <TrackName value={microphone.track} onSet={(track) => put(index, { track })} />
            </Box>
            {microphones.length > 1 && (
              <Button
                size="sm"
                variant="ghost"
                color="quiet"
                onClick={() => set(microphones.filter((_, i) => i !== index))}
              >
                Remove
              </Button>
            )}
          </Flex>
          {on && levels[index] ? (
            <>
              <LevelMeter level={levels[index]} name={microphone.track} />
              <Try channel={index} />
            </>
          ) : (
            <Text fontSize="13px" color="quiet">
              It is off.
            </Text>
          )}
        </Card>
      ))}
      <HStack mb="5" gap="2">
        <Button
          size="sm"
          colorPalette="pine"
          variant={on ? "outline" : "solid"}
          loading={phase === "opening"}
          onClick={() => void (on ? closeMicrophones() : openMicrophones(microphones))}
        >
          {on ? "Switch off" : "Switch the microphone on"}
        </Button>
        {microphones.length < 4 && (
          <Button
            size="sm"
            variant="ghost"
            onClick={() =>
              set([
                ...microphones,
                { device: "", track: freeName(microphones.map((m) => m.track)) },
              ])
            }
          >
            Add another microphone
          </Button>
        )}
      </HStack>
    </>
  );
}

function freeName(taken: string[]): string {
  let number = taken.length + 1;
  while (taken.includes(`Voice ${number}`)) number += 1;
  return `Voice ${number}`;
}

function TrackName({ value, onSet }: { value: string; onSet: (name: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <Input
      size="sm"
      aria-label="Track"
      value={text ?? value}
      maxLength={80}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => {
        if (text?.trim()) onSet(text.trim());
        setText(null);
      }}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}

/** Five seconds of speech, judged: what to change, in words. */
function Try({ channel }: { channel: number }) {
  const [listening, setListening] = useState(false);
  const [found, setFound] = useState<Schemas["Checkup"] | null>(null);
  const go = async () => {
    setListening(true);
    setFound(null);
    try {
      const sound = await listen(channel, TRY_S);
      setFound(
        await takeBytes<Schemas["Checkup"]>(
          "POST",
          "/api/microphone-check",
          sound as Float32Array<ArrayBuffer>,
        ),
      );
    } catch (error) {
      complain(error);
    } finally {
      setListening(false);
    }
  };
  return (
    <Flex align="flex-start" gap="3" mt="3">
      <Button size="xs" variant="outline" disabled={listening} onClick={() => void go()}>
        {listening ? "Speak now…" : "Try it for five seconds"}
      </Button>
      <Box flex="1" pt="1" data-testid="advice">
        {listening && (
          <Box h="6px" bg="wash" borderRadius="3px" overflow="hidden" mt="1.5">
            <Box h="100%" bg="pine.solid" animation={`fill ${TRY_S}s linear forwards`} />
          </Box>
        )}
        {found?.advice.map((sentence) => (
          <Text key={sentence} fontWeight="700" color={found.good ? "pine.fg" : "trouble"}>
            {sentence}
          </Text>
        ))}
      </Box>
    </Flex>
  );
}

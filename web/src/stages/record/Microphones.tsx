/** Choosing microphones, seeing their levels, and trying them for five seconds. */
import { Box, Button, Checkbox, Flex, HStack, NativeSelect, Slider, Text } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { type Schemas, takeBytes } from "../../api/client";
import {
  closeMicrophones,
  type Input as Device,
  listen,
  MICROPHONE,
  type Microphone,
  openMicrophones,
  useCapture,
} from "../../record/capture";
import { Displaced } from "../../record/lease";
import type { Treatment } from "../../record/microphones";
import { TextField } from "../../theme/fields/TextField";
import { Pick } from "../../theme/Pick";
import { Toggle } from "../../theme/Toggle";
import { complain } from "../../theme/toaster";
import { Card, Heading } from "../Panel";
import { LevelMeter } from "./LevelMeter";
import type { Choice } from "./useMicrophones";

const TRY_S = 5;
const MOST = 8;

interface Props {
  choice: Choice;
  /** A guest has one microphone, and its track is named by the host. */
  guest?: boolean;
  /** Where a trial is judged. */
  judge?: string;
}

export function Microphones({ choice, guest, judge = "/api/microphone-check" }: Props) {
  const { phase, inputs, trouble, monitoring } = useCapture();
  const { microphones, set } = choice;
  const on = phase === "on";
  return (
    <>
      <Heading>Microphone{microphones.length > 1 ? "s" : ""}</Heading>
      {!guest && (
        <Text fontSize="13px" color="quiet" mb="3">
          Each goes to a track of its own, all in time with one another.
        </Text>
      )}
      {(trouble ?? choice.missing) && (
        <Text color="trouble" mb="3" role="alert">
          {trouble ?? choice.missing}
        </Text>
      )}
      {microphones.map((microphone, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a microphone is its place in the list
        <Card key={index} data-testid="microphone">
          <Chosen choice={choice} index={index} input={inputs[index]} guest={guest} />
          {on && inputs[index] ? (
            <>
              <LevelMeter input={index} name={microphone.track} />
              <Try channel={index} judge={judge}>
                {!guest && monitoring && microphones.length > 1 && (
                  <Heard choice={choice} index={index} />
                )}
              </Try>
            </>
          ) : (
            <Text fontSize="13px" color="quiet">
              Microphone off
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
          onClick={() => (on ? closeMicrophones() : void openMicrophones(microphones))}
        >
          {on ? "Switch off" : "Switch the microphone on"}
        </Button>
        {!guest && microphones.length < MOST && (
          <Button
            size="sm"
            variant="ghost"
            onClick={() => set([...microphones, { ...MICROPHONE, track: freeName(microphones) }])}
          >
            Add another microphone
          </Button>
        )}
      </HStack>
    </>
  );
}

function freeName(microphones: Microphone[]): string {
  const taken = microphones.map((m) => m.track);
  let number = taken.length + 1;
  while (taken.includes(`Voice ${number}`)) number += 1;
  return `Voice ${number}`;
}

interface ChosenProps {
  choice: Choice;
  index: number;
  input: Device | undefined;
  guest?: boolean;
}

function Chosen({ choice, index, input, guest }: ChosenProps) {
  const [more, setMore] = useState(false);
  const { microphones, devices, set } = choice;
  const microphone = microphones[index];
  if (!microphone) return null;
  const put = (change: Partial<Microphone>, anew?: boolean) =>
    set(
      microphones.map((m, i) => (i === index ? { ...m, ...change } : m)),
      anew,
    );
  const channels = Math.max(input?.channels ?? 1, microphone.channel);
  return (
    <Box mb="3">
      <Flex gap="3" align="flex-end">
        <Field label="Device" grow>
          <Pick
            name="Device"
            size="sm"
            value={microphone.device}
            options={[OWN_CHOICE, ...devices.map(({ id, name }) => [id, name] as const)]}
            onPick={(device) => put({ device, channel: 0 })}
          />
        </Field>
        {channels > 1 && (
          <Field label="Channel" width="110px">
            <NativeSelect.Root size="sm">
              <NativeSelect.Field
                aria-label="Channel"
                value={microphone.channel}
                onChange={(event) => put({ channel: Number(event.target.value) })}
              >
                <option value={0}>All mixed</option>
                {Array.from({ length: channels }, (_, i) => i + 1).map((channel) => (
                  <option key={channel} value={channel}>
                    {channel}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          </Field>
        )}
        {!guest && (
          <Field label="Track" width="150px">
            <TextField
              size="sm"
              label="Track"
              value={microphone.track}
              maxLength={80}
              onSet={(track) => put({ track }, false)}
            />
          </Field>
        )}
        <Button size="sm" variant="ghost" onClick={() => setMore(!more)} aria-expanded={more}>
          {more ? "Less" : "More"}
        </Button>
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
      {(more || !microphone.armed) && microphones.length > 1 && (
        <Box mt="3">
          <Tick on={microphone.armed} onSet={(armed) => put({ armed }, false)}>
            Record it
          </Tick>
        </Box>
      )}
      {more && (
        <>
          {input?.gain && <Gain gain={input.gain} />}
          <Processing treatment={microphone.treatment} onSet={(treatment) => put({ treatment })} />
        </>
      )}
    </Box>
  );
}

interface FieldProps {
  label: string;
  children: ReactNode;
  width?: string;
  grow?: boolean;
}

function Field({ label, children, width, grow }: FieldProps) {
  return (
    <Box w={width} flex={grow ? "1" : undefined} minW="0">
      <Text fontSize="13px" mb="1">
        {label}
      </Text>
      {children}
    </Box>
  );
}

interface TickProps {
  on: boolean;
  onSet: (on: boolean) => void;
  children: ReactNode;
  disabled?: boolean;
}

/** Of devices: none in particular. */
export const OWN_CHOICE = ["", "System default"] as const;

export function Tick({ on, onSet, children, disabled }: TickProps) {
  return (
    <Checkbox.Root
      size="sm"
      colorPalette="pine"
      checked={on}
      disabled={disabled}
      onCheckedChange={(event) => onSet(event.checked === true)}
    >
      <Checkbox.HiddenInput />
      <Checkbox.Control />
      <Checkbox.Label fontWeight="400">{children}</Checkbox.Label>
    </Checkbox.Root>
  );
}

function Gain({ gain }: { gain: NonNullable<Device["gain"]> }) {
  const [value, setValue] = useState(gain.value);
  return (
    <Flex align="center" gap="3" mt="3" maxW="420px">
      <Text fontSize="13px" whiteSpace="nowrap">
        Input gain
      </Text>
      <Slider.Root
        flex="1"
        size="sm"
        colorPalette="pine"
        aria-label={["Input gain"]}
        min={gain.least}
        max={gain.most}
        step={(gain.most - gain.least) / 100}
        value={[value]}
        onValueChange={({ value: [now = value] }) => {
          setValue(now);
          gain.value = now;
          gain.set(now);
        }}
      >
        <Slider.Control>
          <Slider.Track>
            <Slider.Range />
          </Slider.Track>
          <Slider.Thumbs />
        </Slider.Control>
      </Slider.Root>
    </Flex>
  );
}

const OFFERED: [keyof Treatment, string][] = [
  ["autoGainControl", "even out the level"],
  ["echoCancellation", "take out echo"],
  ["noiseSuppression", "take out noise"],
];

function Processing({
  treatment,
  onSet,
}: {
  treatment: Treatment;
  onSet: (treatment: Treatment) => void;
}) {
  return (
    <HStack gap="4" mt="3" wrap="wrap">
      <Text fontSize="13px" color="quiet">
        Let the browser
      </Text>
      {OFFERED.map(([key, words]) => (
        <Tick key={key} on={treatment[key]} onSet={(on) => onSet({ ...treatment, [key]: on })}>
          {words}
        </Tick>
      ))}
      <Text fontSize="12px" color="quiet">
        All of it changes the voice for good, so it is off unless you ask.
      </Text>
    </HStack>
  );
}

/** What of this microphone is heard while monitoring. */
function Heard({ choice, index }: { choice: Choice; index: number }) {
  const { microphones, set } = choice;
  const microphone = microphones[index];
  if (!microphone) return null;
  const put = (change: Partial<Microphone>) =>
    set(
      microphones.map((m, i) => (i === index ? { ...m, ...change } : m)),
      false,
    );
  return (
    <HStack gap="1">
      <Toggle
        size="xs"
        on={microphone.muted}
        off="ghost"
        title="Not in the headphones; it is recorded all the same"
        onClick={() => put({ muted: !microphone.muted })}
      >
        Mute
      </Toggle>
      <Toggle
        size="xs"
        on={microphone.solo}
        off="ghost"
        title="Only this one in the headphones"
        onClick={() => put({ solo: !microphone.solo })}
      >
        Solo
      </Toggle>
    </HStack>
  );
}

interface TryProps {
  channel: number;
  judge: string;
  children?: ReactNode;
}

/** Five seconds of speech, judged: what to change, in words. */
function Try({ channel, judge, children }: TryProps) {
  const [listening, setListening] = useState(false);
  const [found, setFound] = useState<Schemas["Checkup"] | null>(null);
  const go = async () => {
    setListening(true);
    setFound(null);
    try {
      const { samples } = await listen(channel, TRY_S);
      setFound(
        await takeBytes<Schemas["Checkup"]>("POST", judge, samples as Float32Array<ArrayBuffer>),
      );
    } catch (error) {
      if (!(error instanceof Displaced)) complain(error);
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
      {children}
    </Flex>
  );
}

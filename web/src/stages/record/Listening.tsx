/** What the host hears while recording: through which output, with oneself, with other tracks. */
import { Box, Button, HStack, Stack, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { RATE } from "../../api/client";
import { canChooseOutput, setOutput } from "../../playback/audio";
import { setMonitoring, useCapture } from "../../record/capture";
import { measureDelay, useDelay } from "../../record/delay";
import { Displaced } from "../../record/lease";
import { type Device, listOutputs } from "../../record/microphones";
import { findAgain, recallOutput, rememberOutput } from "../../record/remembered";
import { Pick } from "../../theme/Pick";
import { complain } from "../../theme/toaster";
import { Card, Heading } from "../Panel";
import { OWN_CHOICE, Tick } from "./Microphones";

interface Props {
  /** Whether other tracks may play along where the recording goes, and whether they shall. */
  mayPlay: boolean;
  along: boolean;
  onAlong: (along: boolean) => void;
}

export function Listening({ mayPlay, along, onAlong }: Props) {
  const monitoring = useCapture((c) => c.monitoring);
  return (
    <>
      <Heading>What you hear</Heading>
      <Card data-testid="listening">
        <Stack gap="3">
          <Output />
          <Tick on={monitoring} onSet={setMonitoring}>
            Hear yourself
            <Text fontSize="12px" color="quiet">
              with headphones only, or it howls
            </Text>
          </Tick>
          {mayPlay && (
            <Tick on={along} onSet={onAlong}>
              Other tracks play along
              <Text fontSize="12px" color="quiet">
                and what you say is laid in time with them
              </Text>
            </Tick>
          )}
          {mayPlay && along && <Delay />}
        </Stack>
      </Card>
    </>
  );
}

function Output() {
  const [outputs, setOutputs] = useState<Device[]>([]);
  const [chosen, setChosen] = useState(recallOutput);
  const on = useCapture((c) => c.phase === "on");
  // Names are there once a microphone has been opened.
  useEffect(() => {
    if (on || !outputs.length) void listOutputs().then(setOutputs);
  }, [on, outputs.length]);
  const found = chosen && findAgain(outputs, { device: chosen.id, name: chosen.name });
  useEffect(() => {
    if (found?.id) void setOutput(found.id).catch(complain);
  }, [found?.id]);
  if (!canChooseOutput() || !outputs.length) return null;
  const put = (id: string) => {
    const device = outputs.find((d) => d.id === id) ?? { id: "", name: "" };
    setOutput(id).then(() => {
      setChosen(device);
      rememberOutput(device);
    }, complain);
  };
  return (
    <Box>
      <Text fontSize="13px" mb="1">
        Output
      </Text>
      <Pick
        name="Output"
        size="sm"
        value={found?.id ?? ""}
        options={[OWN_CHOICE, ...outputs.map(({ id, name }) => [id, name] as const)]}
        onPick={put}
      />
      {chosen?.name && !found && (
        <Text fontSize="12px" color="trouble" mt="1">
          “{chosen.name}” is not plugged in.
        </Text>
      )}
    </Box>
  );
}

/** The delay from loudspeaker to microphone, and measuring it. */
function Delay() {
  const frames = useDelay((d) => d.frames);
  const on = useCapture((c) => c.phase === "on");
  const [measuring, setMeasuring] = useState(false);
  const measure = () => {
    setMeasuring(true);
    measureDelay(0)
      .catch((error) => !(error instanceof Displaced) && complain(error))
      .finally(() => setMeasuring(false));
  };
  return (
    <Box>
      <Text fontSize="13px">
        {frames === null
          ? "The delay of your devices has not been measured yet."
          : `Delay ${Math.round((frames / RATE) * 1000)} ms, as measured; it is left out.`}
      </Text>
      <HStack mt="2">
        <Button
          size="xs"
          variant="outline"
          disabled={!on}
          loading={measuring}
          loadingText="Three sweeps…"
          onClick={measure}
        >
          Measure the delay
        </Button>
      </HStack>
      <Text fontSize="12px" color="quiet" mt="1">
        Hold the headphones to the microphone: three short sweeps are played.
      </Text>
    </Box>
  );
}

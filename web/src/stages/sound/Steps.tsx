/** The chain of a track, step by step in the order in which it works. Each can be left out. */
import { Box, Button, Flex, HStack, Text } from "@chakra-ui/react";
import type { Band, Chain, Schemas } from "../../api/client";
import { Dial } from "../../theme/Dial";
import { Pick } from "../../theme/Pick";
import { Step } from "../../theme/Step";
import { figure } from "../../time";
import type { Treatment } from "./treatment";

const BAND_KINDS = [
  ["peak", "Bell"],
  ["low_shelf", "Low shelf"],
  ["high_shelf", "High shelf"],
  ["notch", "Notch"],
] as const;

const NOISES = [
  ["steady", "Steady noise"],
  ["learnt", "Any noise"],
] as const;
/** A control that nobody has set yet: it takes what the noise calls for when it is switched on. */
const UNSET = 0.6;

const MADE_SOON = "Being made; until then it sounds as recorded.";

interface Props {
  treatment: Treatment;
  name: string;
  sound: Schemas["SoundView"] | undefined;
  /** Whether what the chain needs is not there yet. */
  beingMade: boolean;
}

export function Steps({ treatment, name, sound, beingMade }: Props) {
  const { chain, attempt, set } = treatment;
  const part = <K extends "echo" | "noise" | "hum" | "low_cut" | "de_ess" | "compressor">(
    key: K,
    title: string,
  ) => ({
    value: chain[key],
    on: chain[key].on,
    title,
    toggle: () =>
      set(
        { ...chain, [key]: { ...chain[key], on: !chain[key].on } },
        `${title} ${chain[key].on ? "off" : "on"} for ${name}`,
      ),
    dial: (field: keyof Chain[K] & string, says: string) => ({
      says,
      value: Number(chain[key][field]),
      disabled: !chain[key].on,
      onTry: (value: number) => attempt({ ...chain, [key]: { ...chain[key], [field]: value } }),
      onSet: (value: number) =>
        set(
          { ...chain, [key]: { ...chain[key], [field]: value } },
          `${title} of ${name}: ${says.toLowerCase()}`,
        ),
    }),
  });
  const echo = part("echo", "Echo");
  const noise = part("noise", "Noise");
  const hum = part("hum", "Hum");
  const cut = part("low_cut", "Low cut");
  const ess = part("de_ess", "De-esser");
  const comp = part("compressor", "Compressor");
  const strength = noise.dial("strength", "Strength");
  return (
    <>
      <Step {...echo} about="Lowers what the room throws back.">
        <Text fontSize="12px" color="quiet">
          {beingMade ? MADE_SOON : "What the room throws back is lowered."}
        </Text>
      </Step>
      <Step
        {...noise}
        toggle={() => {
          const fresh = !noise.on && noise.value.strength === UNSET;
          const method = fresh && sound ? sound.noise_method : noise.value.method;
          set(
            { ...chain, noise: { ...noise.value, on: !noise.on, method } },
            `Noise ${noise.on ? "off" : "on"} for ${name}`,
          );
        }}
        about="Lowers what is heard between the words, and under them."
      >
        <Dial
          {...strength}
          unit="%"
          low={0}
          high={100}
          step={5}
          value={strength.value * 100}
          onTry={(v) => strength.onTry(v / 100)}
          onSet={(v) => strength.onSet(v / 100)}
        />
        <HStack gap="2" my="1">
          <Text fontSize="12px" color="quiet" w="84px" flexShrink="0">
            Against
          </Text>
          <Pick
            name="Against what noise"
            value={noise.value.method}
            options={NOISES}
            onPick={(method) =>
              set(
                { ...chain, noise: { ...noise.value, method } },
                `Against ${method === "steady" ? "steady" : "any"} noise for ${name}`,
              )
            }
          />
        </HStack>
        {sound?.noise_reason && (
          <Text fontSize="12px" color="quiet" data-testid="noise">
            {sound.noise_reason}
            {sound.noise_method !== noise.value.method &&
              (sound.noise_method === "learnt"
                ? " “Any noise” is made for that."
                : " “Steady noise” is enough, and gentler.")}
          </Text>
        )}
        {beingMade && (
          <Text fontSize="12px" color="quiet">
            {MADE_SOON}
          </Text>
        )}
      </Step>
      <Step {...hum} about="Notches on mains hum and its harmonics.">
        <Dial {...hum.dial("hz", "Frequency")} unit="Hz" low={45} high={65} step={0.1} digits={1} />
        <Dial {...hum.dial("highest", "Harmonics")} unit="" low={1} high={20} step={1} />
      </Step>
      <Step {...cut} about="Everything below goes: rumble, thumps.">
        <Dial {...cut.dial("hz", "Below")} unit="Hz" low={20} high={400} step={1} ratio />
      </Step>
      <Equaliser treatment={treatment} name={name} />
      <Step {...ess} about="Holds down an s that stings, and nothing else.">
        <Dial {...ess.dial("hz", "Around")} unit="Hz" low={3000} high={12000} step={50} ratio />
        <Dial {...ess.dial("threshold_db", "From")} unit="dB" low={-30} high={0} step={1} />
        <Dial
          {...ess.dial("most_db", "At most")}
          unit="dB"
          low={0}
          high={18}
          step={0.5}
          digits={1}
        />
      </Step>
      <Step {...comp} about="Holds loud moments down, so that all can be louder.">
        <Dial
          {...comp.dial("threshold_db", "Threshold")}
          unit="dB"
          low={-60}
          high={0}
          step={0.5}
          digits={1}
        />
        <Dial
          {...comp.dial("ratio", "Ratio")}
          unit=": 1"
          low={1}
          high={20}
          step={0.1}
          digits={1}
          ratio
        />
        <Dial {...comp.dial("knee_db", "Knee")} unit="dB" low={0} high={24} step={1} />
        <Dial
          {...comp.dial("attack_ms", "Attack")}
          unit="ms"
          low={0.1}
          high={200}
          step={0.1}
          digits={1}
          ratio
        />
        <Dial
          {...comp.dial("release_ms", "Release")}
          unit="ms"
          low={10}
          high={1000}
          step={1}
          ratio
        />
        <Dial
          {...comp.dial("make_up_db", "Make-up")}
          unit="dB"
          low={-12}
          high={24}
          step={0.5}
          digits={1}
        />
        {sound && (
          <Button
            size="2xs"
            variant="outline"
            disabled={!chain.compressor.on}
            onClick={() =>
              set(
                { ...chain, compressor: sound.first_compressor },
                `Compressor set by ${name}’s voice`,
              )
            }
          >
            Set it by this voice
          </Button>
        )}
      </Step>
    </>
  );
}

function Equaliser({ treatment, name }: { treatment: Treatment; name: string }) {
  const { chain, attempt, set } = treatment;
  const bands = chain.bands ?? [];
  const change = (index: number, more: Partial<Band>) => ({
    ...chain,
    bands: bands.map((band, i) => (i === index ? { ...band, ...more } : band)),
  });
  const says = (band: Band) => `${figure(band.hz, "Hz", 0)}`;
  return (
    <Box py="2" borderBottomWidth="1px" borderColor="rule">
      <Flex align="center">
        <Text fontWeight="700" flex="1">
          Equaliser
        </Text>
        <Button
          size="2xs"
          variant="outline"
          disabled={bands.length >= 12}
          onClick={() =>
            set(
              {
                ...chain,
                bands: [...bands, { kind: "peak", hz: 1000, gain_db: 0, q: 1, on: true }],
              },
              `Added a band for ${name}`,
            )
          }
        >
          Add a band
        </Button>
      </Flex>
      {!bands.length && (
        <Text fontSize="12px" color="quiet">
          Raises or lowers a part of the voice. Drag its point in the picture.
        </Text>
      )}
      {bands.map((band, index) => {
        const label = `band ${index + 1}`;
        const dial = (field: "hz" | "gain_db" | "q", what: string) => ({
          says: what,
          value: band[field] ?? 0,
          disabled: !band.on,
          onTry: (value: number) => attempt(change(index, { [field]: value })),
          onSet: (value: number) =>
            set(change(index, { [field]: value }), `Band at ${says(band)} of ${name}`),
        });
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a band has no name but its place
          <Box key={index} mt="2" pl="2" borderLeftWidth="2px" borderColor="rule">
            <HStack gap="1" mb="1">
              <Pick
                name={`Kind of ${label}`}
                value={band.kind}
                options={BAND_KINDS}
                w="110px"
                onPick={(kind) => set(change(index, { kind }), `Band at ${says(band)} of ${name}`)}
              />
              <Box flex="1" />
              <Button
                size="2xs"
                variant="ghost"
                color="quiet"
                onClick={() =>
                  set(
                    change(index, { on: !band.on }),
                    `Band at ${says(band)} of ${name} ${band.on ? "off" : "on"}`,
                  )
                }
              >
                {band.on ? "Off" : "On"}
              </Button>
              <Button
                size="2xs"
                variant="ghost"
                color="quiet"
                aria-label={`Remove ${label}`}
                onClick={() =>
                  set(
                    { ...chain, bands: bands.filter((_, i) => i !== index) },
                    `Removed the band at ${says(band)} of ${name}`,
                  )
                }
              >
                Remove
              </Button>
            </HStack>
            <Dial {...dial("hz", "Frequency")} unit="Hz" low={20} high={20000} step={1} ratio />
            {band.kind !== "notch" && (
              <Dial
                {...dial("gain_db", "Gain")}
                unit="dB"
                low={-24}
                high={18}
                step={0.5}
                digits={1}
              />
            )}
            <Dial
              {...dial("q", "Narrowness")}
              unit="Q"
              low={0.3}
              high={60}
              step={0.1}
              digits={1}
              ratio
            />
          </Box>
        );
      })}
    </Box>
  );
}

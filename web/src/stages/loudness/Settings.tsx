/** Evening out, and where the episode should end up. */
import { Button, Text } from "@chakra-ui/react";
import { useRef } from "react";
import type { Episode, Levels } from "../../api/client";
import { useEdit, useEvenOut } from "../../api/queries";
import { Labelled } from "../../theme/fields/Labelled";
import { NumberField } from "../../theme/fields/NumberField";
import { Figure, Meaning } from "../../theme/Meaning";
import { LabelledPick } from "../../theme/Pick";
import { figure } from "../../time";
import { Card, Heading } from "../Panel";
import { Gentler } from "./Gentler";
import { Riding } from "./Riding";

/** Targets that are usual (common practice; broadcast: EBU R 128). */
const PRACTICES: { id: string; says: string; layout: "mono" | "stereo" | null; lufs: number }[] = [
  { id: "mono", says: "Spoken, mono: −19 LUFS", layout: "mono", lufs: -19 },
  { id: "stereo", says: "Spoken, stereo: −16 LUFS", layout: "stereo", lufs: -16 },
  { id: "broadcast", says: "Broadcast: −23 LUFS", layout: null, lufs: -23 },
];

type Layout = "mono" | "stereo";

const LAYOUTS: [Layout, string][] = [
  ["mono", "Mono: a talk"],
  ["stereo", "Stereo: with music"],
];

type Wanted = Pick<Episode["loudness"], "layout" | "target_lufs" | "ceiling_dbtp">;

interface SettingsProps {
  episode: Episode;
  levels: Levels | undefined;
  ready: boolean;
}

export function Settings({ episode, levels, ready }: SettingsProps) {
  const edit = useEdit(episode.id);
  const evenOut = useEvenOut(episode.id);
  const { layout, target, target_lufs, usual_target, ceiling_dbtp } = episode.loudness;
  /** What will be there once all that was sent is answered: the next change is made of that. */
  const wanted = useRef<Wanted>({ layout, target_lufs, ceiling_dbtp });
  const underWay = useRef(0);
  if (!underWay.current) wanted.current = { layout, target_lufs, ceiling_dbtp };
  const set = (change: Partial<Wanted>) => {
    wanted.current = { ...wanted.current, ...change };
    underWay.current += 1;
    edit
      .mutateAsync({ kind: "set_loudness", ...wanted.current })
      .catch(() => undefined) // told where all edits are made
      .finally(() => {
        underWay.current -= 1;
      });
  };
  const own = target_lufs ?? null;
  const practice =
    PRACTICES.find((one) => (one.layout ?? layout) === layout && (own ?? usual_target) === one.lufs)
      ?.id ?? "own";
  return (
    <>
      <Heading>Even out</Heading>
      <Card data-testid="evenness">
        {levels?.measured ? (
          <>
            <Text data-testid="verdict">{levels.verdict}</Text>
            <Text mt="1" fontSize="13px" color="quiet">
              Now <Figure value={levels.after} unit="LUFS" />, target {figure(target, "LUFS")}.
            </Text>
            {levels.limiter_heard && (
              <Gentler
                episode={episode}
                next={levels.even}
                onTarget={(lufs) => set({ target_lufs: lufs })}
              />
            )}
            {levels.most_limiting_db > 0.1 && !levels.limiter_heard && (
              <Text mt="1" fontSize="13px" color="quiet">
                The limiter lowers its highest peaks by up to {levels.most_limiting_db.toFixed(1)}{" "}
                dB.
              </Text>
            )}
          </>
        ) : (
          <Text color="quiet">It is being measured.</Text>
        )}
        <Button
          mt="3"
          w="100%"
          size="sm"
          colorPalette="pine"
          variant={levels?.even ? "outline" : "solid"}
          disabled={!ready}
          loading={evenOut.isPending}
          onClick={() => evenOut.mutate(undefined)}
        >
          Even out all sections
        </Button>
        <Text mt="2" fontSize="12px" color="quiet">
          Each section by one gain, at most ±20 dB, changing between words only. The sound of the
          voice stays as it is.
        </Text>
      </Card>
      <Riding episode={episode} />
      <Heading>Where it should end up</Heading>
      <Card>
        <LabelledPick
          name="Usual practice"
          value={practice}
          options={[
            ...PRACTICES.map((one) => [one.id, one.says] as const),
            ["own", "Your own values"] as const,
          ]}
          onPick={(id) => {
            const one = PRACTICES.find((p) => p.id === id);
            if (one) set({ layout: one.layout ?? layout, target_lufs: one.lufs });
          }}
        />
        <LabelledPick
          name="Channels"
          value={layout}
          options={LAYOUTS}
          onPick={(next) => set({ layout: next })}
        />
        <Labelled
          says={
            <>
              Target in <Meaning of="LUFS" />
            </>
          }
        >
          <NumberField
            size="sm"
            label="Target in LUFS"
            value={target}
            low={-36}
            high={-8}
            onSet={(value) => set({ target_lufs: value })}
          />
        </Labelled>
        <Text fontSize="12px" color="quiet" mt="1">
          {target_lufs === null || target_lufs === undefined
            ? `Usual for ${layout} speech.`
            : `Usual for ${layout} speech is ${figure(usual_target, "LUFS", 0)}.`}
        </Text>
        <Labelled
          says={
            <>
              Highest true peak in <Meaning of="dBTP" />
            </>
          }
        >
          <NumberField
            size="sm"
            label="Highest true peak in dBTP"
            value={ceiling_dbtp}
            low={-9}
            high={-0.1}
            onSet={(value) => set({ ceiling_dbtp: value })}
          />
        </Labelled>
      </Card>
    </>
  );
}

/** A placed sound: what it holds on to, how loud it is, how it gives way. */
import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { type Edit, RATE, type Schemas } from "../../api/client";
import { SHAPES } from "../../page/SpliceMark";
import { play } from "../../playback/player";
import { NumberField } from "../../theme/fields/NumberField";
import { TimeField } from "../../theme/fields/TimeField";
import { named, Pick } from "../../theme/Pick";
import { clock } from "../../time";
import { Card, Heading } from "../Panel";
import type { Row } from "./parts";
import { HOLDS, type Holding, type Placed } from "./sounds";

interface Props {
  placed: Placed;
  rows: readonly Row[];
  onEdit: (edit: Edit) => void;
}

const BEFORE = 2 * RATE;
const WAYS = { attack: RATE / 2, hold: RATE, release: (3 * RATE) / 2 };

export function PlacedSound({ placed, rows, onEdit }: Props) {
  return (
    <>
      <Heading>{placed.sound.name}</Heading>
      <SoundCard {...{ placed, rows, onEdit }} />
    </>
  );
}

/** What can be set of a placed sound, wherever it is come upon. */
export function SoundCard({ placed, rows, onEdit }: Props) {
  const { sound, at, length, notice, outdated } = placed;
  const { hold } = sound;
  const change = (what: Omit<Schemas["ChangeSound"], "kind" | "sound">) =>
    onEdit({ kind: "change_sound", sound: sound.id, ...what });
  const holdOn = (more: Partial<Schemas["HoldOn"]>) =>
    change({
      hold: { kind: hold.kind, part: hold.part, offset: hold.offset, at: hold.at, ...more },
    });
  const here =
    rows.find((row) => row.id === hold.part) ?? rows.findLast((r) => (r.at ?? 0) <= (at ?? 0));
  const kinds = named(HOLDS).filter(([kind]) => kind === "time" || here);
  return (
    <Card data-testid="placed-sound">
      {notice && (
        <Text fontSize="13px" color="trouble" mb="2" role="status">
          {notice}
        </Text>
      )}
      {outdated && (
        <Flex gap="2" mb="2" align="center" fontSize="13px" role="status">
          <Text flex="1">The voices were set otherwise since its level was.</Text>
          <Button
            size="xs"
            variant="outline"
            title="Measures the voices as they are now; every sound that needs it is set again"
            onClick={() => onEdit({ kind: "level_sounds" })}
          >
            Level again
          </Button>
        </Flex>
      )}
      <Grid templateColumns="1fr 1fr" gap="2">
        <Field says={here && hold.kind !== "time" ? `At “${here.name}”` : "Where"} wide>
          <Pick
            name="Where"
            size="sm"
            value={hold.kind}
            options={kinds}
            onPick={(kind: Holding) =>
              kind === "time"
                ? holdOn({ kind, at: at ?? 0, part: null, offset: 0 })
                : holdOn({ kind, part: here?.id ?? null, offset: offsetOf(kind) })
            }
          />
        </Field>
        {hold.kind === "time" && (
          <Field says="Begins at">
            <TimeField
              label="Begins at"
              size="sm"
              w="100%"
              px="3"
              at={hold.at}
              onSet={(to) => holdOn({ at: to })}
            />
          </Field>
        )}
        {hold.kind === "before_talk" && (
          <Seconds
            label="Goes on under it"
            value={hold.offset}
            onSet={(offset) => holdOn({ offset })}
          />
        )}
        {hold.kind === "after_talk" && (
          <Seconds
            label="Under the last"
            value={-hold.offset}
            onSet={(before) => holdOn({ offset: -before })}
          />
        )}
        <Field says="Beside the voices, LU">
          <NumberField
            label="Level beside the voices"
            size="sm"
            value={sound.level_lu}
            low={-60}
            high={20}
            unit="LU"
            onSet={(level_lu) => change({ level_lu })}
          />
        </Field>
        <Field says="Gives way to talk, dB">
          <NumberField
            label="How far it gives way"
            size="sm"
            value={sound.duck?.depth_db ?? 0}
            low={0}
            high={60}
            unit="dB"
            onSet={(depth_db) => change({ duck: { ...WAYS, ...sound.duck, depth_db } })}
          />
        </Field>
        <Field says="From, in the sound">
          <TimeField
            label="Start within the sound"
            size="sm"
            w="100%"
            px="3"
            at={sound.start}
            onSet={(start) => change({ start })}
          />
        </Field>
        <Field says="Length">
          <TimeField
            label="Length of the sound"
            size="sm"
            w="100%"
            px="3"
            at={sound.frames}
            onSet={(frames) => change({ frames })}
          />
        </Field>
      </Grid>
      <Grid templateColumns="1fr 1fr" gap="2" mt="2">
        <Seconds label="Fade in" value={sound.fade_in} onSet={(fade_in) => change({ fade_in })} />
        <Shape of="fade in" value={sound.shape_in} onPick={(shape_in) => change({ shape_in })} />
        <Seconds
          label="Fade out"
          value={sound.fade_out}
          onSet={(fade_out) => change({ fade_out })}
        />
        <Shape
          of="fade out"
          value={sound.shape_out}
          onPick={(shape_out) => change({ shape_out })}
        />
      </Grid>
      {sound.duck && (
        <Grid templateColumns="1fr 1fr 1fr" gap="2" mt="2">
          {(["attack", "hold", "release"] as const).map((which) => (
            <Seconds
              key={which}
              label={{ attack: "Sinks in", hold: "Waits", release: "Rises in" }[which]}
              value={sound.duck?.[which] ?? 0}
              onSet={(frames) => sound.duck && change({ duck: { ...sound.duck, [which]: frames } })}
            />
          ))}
        </Grid>
      )}
      <Flex gap="2" mt="3" wrap="wrap">
        <Button
          size="xs"
          colorPalette="pine"
          disabled={at === null}
          onClick={() => at !== null && play(Math.max(0, at - BEFORE), at + length + BEFORE)}
        >
          Listen
        </Button>
        <Button
          size="xs"
          variant="outline"
          onClick={() => onEdit({ kind: "take_sound_out", sound: sound.id })}
        >
          Take out
        </Button>
        <Button
          size="xs"
          variant="ghost"
          color="quiet"
          disabled={at === null}
          title="It stays as it is now, on a track of its own, and follows nothing any more"
          onClick={() => onEdit({ kind: "let_go", sound: sound.id })}
        >
          Let go
        </Button>
      </Flex>
      {at !== null && (
        <Text fontSize="12px" color="quiet" mt="2">
          {clock(at, 1)} to {clock(at + length, 1)}
        </Text>
      )}
    </Card>
  );
}

const offsetOf = (kind: Holding) =>
  kind === "before_talk" ? 4 * RATE : kind === "after_talk" ? -4 * RATE : 0;

interface FieldProps {
  says: string;
  wide?: boolean;
  children: ReactNode;
}

const Field = ({ says, wide, children }: FieldProps) => (
  <Box gridColumn={wide ? "1 / -1" : undefined}>
    <Text fontSize="12px" color="quiet" truncate>
      {says}
    </Text>
    {children}
  </Box>
);

type Curve = keyof typeof SHAPES;

interface ShapeProps {
  of: string;
  value: Curve;
  onPick: (shape: Curve) => void;
}

const Shape = ({ of, value, onPick }: ShapeProps) => (
  <Field says="Its shape">
    <Pick
      name={`Shape of the ${of}`}
      size="sm"
      value={value}
      options={named(SHAPES)}
      onPick={onPick}
    />
  </Field>
);

interface SecondsProps {
  label: string;
  /** In frames. */
  value: number;
  onSet: (frames: number) => void;
}

const Seconds = ({ label, value, onSet }: SecondsProps) => (
  <Field says={`${label}, s`}>
    <NumberField
      label={label}
      size="sm"
      value={Math.round((value / RATE) * 100) / 100}
      low={0}
      high={60}
      unit="s"
      onSet={(seconds) => onSet(Math.round(seconds * RATE))}
    />
  </Field>
);

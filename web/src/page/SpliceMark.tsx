/**
 * A stitch on the baseline where something was cut. Opening it tells what; there it can be heard with
 * and without, its edges moved, its crossfade set, and what was cut put back.
 */
import { Box, Button, HStack, Input, SimpleGrid, Text } from "@chakra-ui/react";
import { cloneElement, useEffect } from "react";
import { acrossOf } from "../actions/places";
import { type Edit, RATE, type Splice } from "../api/client";
import { loop, playAround, playRestored, stop, usePlayer } from "../playback/player";
import { named, Pick } from "../theme/Pick";
import { seconds } from "../time";
import { useView } from "../view/view";
import { OnLine } from "./OnLine";
import { useDrag } from "./useDrag";

interface Props {
  splice: Splice;
  x: number;
  top: number;
  scale: number;
  total: number;
  /** It is the mark that the card opens at; the others of this splice stand on other tracks. */
  main: boolean;
  onEdit: (edit: Edit) => void;
}

export function SpliceMark({ splice, x, top, scale, total, main, onEdit }: Props) {
  const label = `${splice.retake ? "The other take" : "Cut here"}: ${seconds(splice.frames)}${splice.text ? `, “${splice.text}”` : ""}`;
  const open = useView((v) => v.splice === splice.cut);
  const stitch = (
    <button
      type="button"
      className="at-splice"
      data-splice={splice.cut}
      data-open={open ? "" : undefined}
      aria-label={label}
      title={label}
      style={{ left: x - 9, top: top - 15 }}
    >
      <svg width="18" height="20" viewBox="0 0 18 20" aria-hidden="true">
        <path
          d="M4 16 L9 6 M9 16 L14 6"
          stroke="currentColor"
          strokeWidth="2"
          strokeLinecap="round"
        />
      </svg>
    </button>
  );
  if (!main) {
    return (
      <>
        {open && !splice.retake && <Edges {...{ splice, x, top, scale, onEdit }} />}
        {cloneElement(stitch, { onClick: () => useView.setState({ splice: splice.cut }) })}
      </>
    );
  }
  return (
    <>
      {open && !splice.retake && (
        <Edges splice={splice} x={x} top={top} scale={scale} onEdit={onEdit} />
      )}
      <OnLine
        label="Splice"
        trigger={stitch}
        open={open}
        wide={!splice.retake}
        onOpen={(now) => {
          useView.setState({ splice: now ? splice.cut : null });
          if (!now && usePlayer.getState().looping) stop();
        }}
      >
        <Opened splice={splice} total={total} onEdit={onEdit} />
      </OnLine>
    </>
  );
}

/** The two edges of an open splice, to be dragged: each gives back, or takes more. */
function Edges({ splice, x, top, scale, onEdit }: Omit<Props, "total" | "main">) {
  const move = (edge: "left" | "right") => ({
    scale,
    onDrop: (by: number) =>
      onEdit({ kind: "move_edges", cut: splice.cut, left: 0, right: 0, [edge]: by }),
  });
  const left = useDrag(move("left"));
  const right = useDrag(move("right"));
  const edge = {
    top: -4,
    height: top + 4,
    width: 10,
    cursor: "ew-resize",
    opacity: 1,
  } as const;
  return (
    <>
      <div
        {...left.props}
        className="at-handle"
        data-edge="left"
        title="Left edge: drag it"
        style={{
          ...edge,
          left: x - 10 + (left.moved?.x ?? 0),
          borderRight: "2px solid var(--chakra-colors-apricot)",
          borderTop: "8px solid var(--chakra-colors-apricot)",
        }}
      />
      <div
        {...right.props}
        className="at-handle"
        data-edge="right"
        title="Right edge: drag it"
        style={{
          ...edge,
          left: x + (right.moved?.x ?? 0),
          borderLeft: "2px solid var(--chakra-colors-apricot)",
          borderTop: "8px solid var(--chakra-colors-apricot)",
        }}
      />
    </>
  );
}

export const SHAPES = { round: "Round", straight: "Straight", soft: "Soft" } as const;
const STEPS_MS = [-10, -1, 1, 10] as const;

function Opened({ splice, total, onEdit }: Pick<Props, "splice" | "total" | "onEdit">) {
  const looping = usePlayer((p) => p.looping);
  const { at, cut } = splice;
  // While it loops, a moved edge is heard on the next time round.
  useEffect(() => {
    if (!usePlayer.getState().looping) return;
    const across = acrossOf(at, total);
    loop(across.start, across.end);
  }, [at, total]);
  return (
    <Box data-testid="splice-card">
      <Text fontSize="12px" color="quiet">
        {splice.retake
          ? `The other take, ${seconds(splice.frames)}, is kept here`
          : `${seconds(splice.frames)} cut here`}
      </Text>
      {splice.text && (
        <Text
          fontFamily="script"
          fontSize="16px"
          textDecoration={splice.retake ? undefined : "line-through"}
          color={splice.retake ? "ink" : "trouble"}
          lineClamp="3"
        >
          {splice.text}
        </Text>
      )}
      <HStack mt="2" wrap="wrap">
        <Button size="xs" variant="outline" onClick={() => playAround(at)} title="J">
          Hear across it
        </Button>
        <Button size="xs" variant="outline" onClick={() => playRestored(splice)} title="Shift J">
          With what was cut
        </Button>
        {!splice.retake && (
          <Button
            size="xs"
            variant="outline"
            aria-pressed={looping}
            onClick={() => {
              const across = acrossOf(at, total);
              if (looping) stop();
              else loop(across.start, across.end);
            }}
          >
            {looping ? "Stop" : "Again and again"}
          </Button>
        )}
      </HStack>
      {!splice.retake && (
        <SimpleGrid gridTemplateColumns="74px 1fr" alignItems="center" gap="1.5" mt="3">
          <Text fontSize="12px">Left edge</Text>
          <Steps
            name="Left edge"
            onStep={(by) => onEdit({ kind: "move_edges", cut, left: by, right: 0 })}
          />
          <Text fontSize="12px">Right edge</Text>
          <Steps
            name="Right edge"
            onStep={(by) => onEdit({ kind: "move_edges", cut, left: 0, right: by })}
          />
          <Text fontSize="12px">Crossfade</Text>
          <HStack gap="1">
            <form
              onSubmit={(event) => {
                event.preventDefault();
                const typed = Number(new FormData(event.currentTarget).get("ms"));
                const frames = Math.round((typed * RATE) / 1000);
                if (typed >= 0) onEdit({ kind: "set_splice", at, crossfade_frames: frames });
              }}
            >
              <Input
                key={splice.crossfade_frames}
                name="ms"
                size="xs"
                w="56px"
                aria-label="Crossfade in milliseconds"
                defaultValue={Math.round((splice.crossfade_frames / RATE) * 1000)}
              />
            </form>
            <Text fontSize="12px">ms</Text>
            <Pick
              name="Shape of the crossfade"
              w="100px"
              value={splice.shape}
              options={named(SHAPES)}
              onPick={(shape) => onEdit({ kind: "set_splice", at, shape })}
            />
          </HStack>
        </SimpleGrid>
      )}
      <HStack mt="3">
        {splice.retake && (
          <Button
            size="xs"
            colorPalette="pine"
            onClick={() => onEdit({ kind: "choose_take", cut })}
          >
            Use the other take
          </Button>
        )}
        <Button
          size="xs"
          colorPalette="pine"
          variant={splice.retake ? "outline" : "solid"}
          onClick={() => onEdit({ kind: "restore", cut })}
        >
          {splice.retake ? "Keep both" : "Put it back"}
        </Button>
      </HStack>
    </Box>
  );
}

function Steps({ name, onStep }: { name: string; onStep: (frames: number) => void }) {
  return (
    <HStack gap="1">
      {STEPS_MS.map((ms) => (
        <Button
          key={ms}
          size="2xs"
          variant="outline"
          aria-label={`${name} ${Math.abs(ms)} ms ${ms < 0 ? "earlier" : "later"}`}
          onClick={() => onStep((ms * RATE) / 1000)}
        >
          {ms < 0 ? "−" : "+"}
          {Math.abs(ms)} ms
        </Button>
      ))}
    </HStack>
  );
}

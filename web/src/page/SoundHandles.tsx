/**
 * A placed sound on the Page: its name, and what it can be taken hold of by. Where it is dragged to,
 * it goes on holding on to the talk, so much earlier or later.
 */
import type { Edit, PageData } from "../api/client";
import { LONGEST_FADE } from "../measures";
import { seconds } from "../time";
import { EdgeBar, FadeKnob, Grip } from "./handles";
import { type LineSpan, within } from "./span";

type Placed = PageData["sounds"][number];

interface Props extends LineSpan {
  placed: Placed;
  height: number;
  onEdit: (edit: Edit) => void;
}

export function SoundHandles({ placed, height, onEdit, ...line }: Props) {
  const { sound, length } = placed;
  const { hold } = sound;
  const at = placed.at ?? 0;
  const end = at + length;
  const { start, frames, width } = line;
  const scale = frames / width;
  const x = (frame: number) => (frame - start) / scale;
  const change = (what: object) => onEdit({ kind: "change_sound", sound: sound.id, ...what });
  /** So much later against what it holds on to. */
  const later = (by: number) => ({
    hold:
      hold.kind === "time"
        ? { kind: hold.kind, part: null, offset: 0, at: Math.max(0, at + by) }
        : { kind: hold.kind, part: hold.part, offset: hold.offset + by, at: 0 },
  });
  // What lies under a part or between two has its place from them alone.
  const movable = hold.kind !== "under" && hold.kind !== "between";
  const fromStart = (by: number) => {
    const held = Math.max(-sound.start, Math.min(sound.frames - 1, by));
    const rest = { start: sound.start + held, frames: sound.frames - held };
    change(hold.kind === "before_talk" ? rest : { ...rest, ...later(held) });
  };
  const toEnd = (by: number) => {
    const held = Math.max(1 - sound.frames, by);
    const rest = { frames: sound.frames + held };
    change(hold.kind === "before_talk" ? { ...rest, ...later(held) } : rest);
  };
  const fade = (which: "fade_in" | "fade_out", frames: number) =>
    change({ [which]: Math.max(0, Math.min(sound.frames, LONGEST_FADE, frames)) });
  const shows = (frame: number) => frame >= start && frame < start + frames;
  const bar = { scale, height };
  return (
    <>
      {shows(at) && (
        <>
          <span className="at-sound" style={{ ...within({ start: at, frames: length }, line) }}>
            <span data-sound-on-page={sound.id}>{sound.name}</span>
          </span>
          {movable && (
            <>
              <Grip
                x={x(at)}
                scale={scale}
                title={`Move “${sound.name}”. It goes on following the talk.`}
                data-sound-grip={sound.id}
                onDrop={(by) => change(later(by))}
              />
              <EdgeBar
                side="left"
                x={x(at)}
                title={`Where “${sound.name}” begins`}
                onDrop={fromStart}
                {...bar}
              />
            </>
          )}
          <FadeKnob
            x={x(at + sound.fade_in)}
            title={`“${sound.name}” fades in: ${seconds(sound.fade_in)}. Drag to change.`}
            onDrop={(by) => fade("fade_in", sound.fade_in + by)}
            {...bar}
          />
        </>
      )}
      {shows(end - 1) && (
        <>
          {movable && (
            <EdgeBar
              side="right"
              x={x(end)}
              title={`Where “${sound.name}” ends`}
              onDrop={toEnd}
              {...bar}
            />
          )}
          <FadeKnob
            x={x(end - sound.fade_out)}
            title={`“${sound.name}” fades out: ${seconds(sound.fade_out)}. Drag to change.`}
            onDrop={(by) => fade("fade_out", sound.fade_out - by)}
            {...bar}
          />
        </>
      )}
    </>
  );
}

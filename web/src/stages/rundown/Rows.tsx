/** The rows of the running order: what comes after what, and how it begins and ends. */

import { type DragEvent, useMemo, useRef, useState } from "react";
import type { Episode, Levels } from "../../api/client";
import { Head } from "../../theme/Head";
import { Meaning } from "../../theme/Meaning";
import { clock, figure } from "../../time";
import { PartRow, type RowCalls, type SoundHere } from "./PartRow";
import { DRAGGED, type Row } from "./parts";
import { DRAGGED_SOUND, HOLDS, type Placed } from "./sounds";

interface Props {
  episode: Episode;
  rows: readonly Row[];
  levels: Levels | undefined;
  chosen: string | null;
  sounds: readonly Placed[];
  chosenSound: string | null;
  onSound: (id: string) => void;
  /** A sound of the shelf was dropped on a part. */
  onPlace: (sound: string, part: string) => void;
  onChoose: (id: string) => void;
  onName: (id: string, name: string) => void;
  /** A row was dropped before another, or at the end (null). */
  onMove: (id: string, before: string | null) => void;
}

const COLUMNS = [
  { title: "Place", unseen: true, width: 58 },
  { title: "Part", width: "21%" },
  { title: "In-words … out-words" },
  { title: "Who", width: 92 },
  { title: "Length", width: 68, figure: true },
  { title: "Runs to", width: 74, figure: true },
  { title: "LUFS", width: 62, figure: true },
  { title: "Under it", width: 112 },
];

export function Rows(props: Props) {
  const { episode, rows, levels, chosen, sounds, chosenSound } = props;
  const [target, setTarget] = useState<number | null>(null);
  const [onto, setOnto] = useState<number | null>(null);
  const now = useRef({ ...props, target, onto });
  now.current = { ...props, target, onto };
  const calls = useMemo<RowCalls>(
    () => ({
      choose: (id) => now.current.onChoose(id),
      name: (id, name) => now.current.onName(id, name),
      sound: (id) => now.current.onSound(id),
      over: (event, place) => {
        if (event.dataTransfer.types.includes(DRAGGED_SOUND)) {
          event.preventDefault();
          return setOnto(place);
        }
        if (!event.dataTransfer.types.includes(DRAGGED)) return;
        event.preventDefault();
        const box = event.currentTarget.getBoundingClientRect();
        setTarget(event.clientY > box.top + box.height / 2 ? place + 1 : place);
      },
      leave: () => {
        setTarget(null);
        setOnto(null);
      },
      drop: (event: DragEvent) => {
        const id = event.dataTransfer.getData(DRAGGED);
        const sound = event.dataTransfer.getData(DRAGGED_SOUND);
        const { target: to, onto: part, rows: standing, onMove, onPlace } = now.current;
        if (!id && !sound) return;
        event.preventDefault();
        event.stopPropagation();
        setTarget(null);
        setOnto(null);
        const under = part === null ? undefined : standing[part]?.id;
        if (sound && under) return onPlace(sound, under);
        const from = standing.findIndex((row) => row.id === id);
        if (from < 0 || to === null || to === from || to === from + 1) return;
        onMove(id, standing[to]?.id ?? null);
      },
    }),
    [],
  );
  return (
    <table className="running-order" data-testid="rundown">
      <thead>
        <tr>
          {COLUMNS.map(({ title, width, figure, unseen }) => (
            <th key={title} style={{ width }} className={figure ? "figure" : undefined}>
              {title === "LUFS" ? <Meaning of={title} /> : <Head title={title} unseen={unseen} />}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row, i) => (
          <PartRow
            key={row.id}
            row={row}
            place={i}
            tracks={episode.tracks}
            lufs={levels?.sections_after[i]}
            chosen={row.id === chosen}
            sounds={soundsAt(row, sounds)}
            chosenSound={chosenSound}
            edge={onto === i ? "onto" : edge(target, i, rows.length)}
            calls={calls}
          />
        ))}
      </tbody>
    </table>
  );
}

/** What is placed at a part: what holds on to it, and what holds to a time within it. */
function soundsAt(row: Row, sounds: readonly Placed[]): string {
  const at = row.at ?? 0;
  const here = sounds.filter(({ sound: { hold }, at: begins }) =>
    hold.kind === "time"
      ? begins !== null && begins >= at && begins < at + row.frames
      : hold.part === row.id,
  );
  return JSON.stringify(
    here.map(
      ({ sound, at: begins, length, notice }): SoundHere => ({
        id: sound.id,
        name: sound.name,
        says: `${HOLDS[sound.hold.kind]}, ${clock(begins ?? 0)} to ${clock((begins ?? 0) + length)}, ${figure(sound.level_lu, "LU")}. ${notice}`,
        notice: notice !== "",
      }),
    ),
  );
}

function edge(target: number | null, index: number, count: number) {
  if (target === index) return "before";
  return target === count && index === count - 1 ? "after" : undefined;
}

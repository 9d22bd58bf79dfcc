/** The rows of the running order: what comes after what, and how it begins and ends. */
import { type DragEvent, useMemo, useRef, useState } from "react";
import type { Episode, Levels } from "../../api/client";
import { PartRow, type RowCalls } from "./PartRow";
import { DRAGGED, type Row } from "./parts";

interface Props {
  episode: Episode;
  rows: readonly Row[];
  levels: Levels | undefined;
  chosen: string | null;
  onChoose: (id: string) => void;
  onName: (id: string, name: string) => void;
  /** A row was dropped before another, or at the end (null). */
  onMove: (id: string, before: string | null) => void;
}

const COLUMNS = [
  { title: "", width: 58 },
  { title: "Part", width: "21%" },
  { title: "In-words … out-words" },
  { title: "Who", width: 92 },
  { title: "Length", width: 68, figure: true },
  { title: "Runs to", width: 74, figure: true },
  { title: "LUFS", width: 62, figure: true },
  { title: "Music", width: 92 },
];

export function Rows(props: Props) {
  const { episode, rows, levels, chosen } = props;
  const [target, setTarget] = useState<number | null>(null);
  const now = useRef({ ...props, target });
  now.current = { ...props, target };
  const calls = useMemo<RowCalls>(
    () => ({
      choose: (id) => now.current.onChoose(id),
      name: (id, name) => now.current.onName(id, name),
      over: (event, place) => {
        if (!event.dataTransfer.types.includes(DRAGGED)) return;
        event.preventDefault();
        const box = event.currentTarget.getBoundingClientRect();
        setTarget(event.clientY > box.top + box.height / 2 ? place + 1 : place);
      },
      leave: () => setTarget(null),
      drop: (event: DragEvent) => {
        const id = event.dataTransfer.getData(DRAGGED);
        const { target: to, rows: standing, onMove } = now.current;
        event.preventDefault();
        event.stopPropagation();
        setTarget(null);
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
          {COLUMNS.map(({ title, width, figure }) => (
            <th key={title} style={{ width }} className={figure ? "figure" : undefined}>
              {title}
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
            edge={edge(target, i, rows.length)}
            calls={calls}
          />
        ))}
      </tbody>
    </table>
  );
}

function edge(target: number | null, index: number, count: number) {
  if (target === index) return "before";
  return target === count && index === count - 1 ? "after" : undefined;
}

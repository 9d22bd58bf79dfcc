/** The rows of the running order: what comes after what, and how it begins and ends. */
import { Box, Table, Text } from "@chakra-ui/react";
import { GripVertical, Play } from "lucide-react";
import { type DragEvent, type ReactNode, useState } from "react";
import type { Episode, Levels } from "../../api/client";
import { play } from "../../playback/player";
import { inkOf } from "../../theme/colours";
import { TextField } from "../../theme/fields/TextField";
import { useMode } from "../../theme/mode";
import { clock, figure } from "../../time";
import { quoted, type Row } from "./parts";

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
  { title: "", w: "58px" },
  { title: "Part", w: "21%" },
  { title: "In-words … out-words" },
  { title: "Who", w: "92px" },
  { title: "Length", w: "68px", textAlign: "right" },
  { title: "Runs to", w: "74px", textAlign: "right" },
  { title: "LUFS", w: "62px", textAlign: "right" },
  { title: "Music", w: "92px" },
] as const;

const DRAGGED = "application/x-airtrim-part";

export function Rows({ episode, rows, levels, chosen, onChoose, onName, onMove }: Props) {
  const [target, setTarget] = useState<number | null>(null);
  const over = (place: number) => ({
    onDragOver: (event: DragEvent) => {
      if (!event.dataTransfer.types.includes(DRAGGED)) return;
      event.preventDefault();
      const box = event.currentTarget.getBoundingClientRect();
      setTarget(event.clientY > box.top + box.height / 2 ? place + 1 : place);
    },
    onDragLeave: () => setTarget(null),
    onDrop: (event: DragEvent) => {
      const id = event.dataTransfer.getData(DRAGGED);
      event.preventDefault();
      event.stopPropagation();
      const to = target;
      setTarget(null);
      if (id && to !== null) drop(id, to);
    },
  });
  const drop = (id: string, place: number) => {
    const from = rows.findIndex((row) => row.id === id);
    if (place === from || place === from + 1) return;
    onMove(id, rows[place]?.id ?? null);
  };
  return (
    <Table.Root size="sm" data-testid="rundown" css={{ tableLayout: "fixed" }}>
      <Table.Header>
        <Table.Row bg="transparent">
          {COLUMNS.map(({ title, ...column }) => (
            <Table.ColumnHeader key={title} py="1" px="2" color="quiet" {...column}>
              {title}
            </Table.ColumnHeader>
          ))}
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {rows.map((row, i) => (
          <Table.Row
            key={row.id}
            bg={row.id === chosen ? "wash" : "transparent"}
            data-rundown-row={row.id}
            aria-selected={row.id === chosen}
            onClick={() => onChoose(row.id)}
            onFocus={() => onChoose(row.id)}
            boxShadow={edge(target, i, rows.length)}
            {...over(i)}
          >
            <Cell>
              <Box display="flex" alignItems="center" gap="1">
                <Box
                  as="span"
                  draggable
                  cursor="grab"
                  color="quiet"
                  title="Drag to another place"
                  data-grip=""
                  onDragStart={(event: DragEvent) => {
                    event.dataTransfer.setData(DRAGGED, row.id);
                    event.dataTransfer.effectAllowed = "move";
                    onChoose(row.id);
                  }}
                  onDragEnd={() => setTarget(null)}
                >
                  <GripVertical size={15} />
                </Box>
                <Start at={row.at ?? 0} name={row.name} number={i + 1} />
              </Box>
            </Cell>
            <Cell>
              <TextField
                size="xs"
                fontSize="14px"
                fontWeight="700"
                px="1"
                ml="-1"
                borderColor="transparent"
                _hover={{ borderColor: "rule" }}
                label={`Name of part ${i + 1}`}
                value={row.name}
                onSet={(name) => onName(row.id, name)}
              />
            </Cell>
            <Cell>
              <Words row={row} />
            </Cell>
            <Cell>
              <Who episode={episode} names={row.who} />
            </Cell>
            <Cell right>{clock(row.frames, 0)}</Cell>
            <Cell right>{clock((row.at ?? 0) + row.frames, 0)}</Cell>
            <Cell right>{figure(levels?.sections_after[i], "").trim()}</Cell>
            <Cell>
              <Text truncate fontSize="13px" title={row.music.join(", ")}>
                {row.music.join(", ")}
              </Text>
            </Cell>
          </Table.Row>
        ))}
      </Table.Body>
    </Table.Root>
  );
}

/** A line where what is dragged would come to stand. */
function edge(target: number | null, index: number, count: number) {
  const line = "var(--chakra-colors-apricot)";
  if (target === index) return `inset 0 2px 0 ${line}`;
  return target === count && index === count - 1 ? `inset 0 -2px 0 ${line}` : undefined;
}

const Cell = ({ children, right }: { children: ReactNode; right?: boolean }) => (
  <Table.Cell py="1.5" px="2" verticalAlign="middle" textAlign={right ? "right" : undefined}>
    {children}
  </Table.Cell>
);

const Start = ({ at, name, number }: { at: number; name: string; number: number }) => (
  <Box
    asChild
    display="inline-flex"
    alignItems="center"
    gap="1"
    px="1"
    rounded="6px"
    _hover={{ bg: "wash" }}
  >
    <button
      type="button"
      aria-label={`Play from ${name}`}
      title="Play from here"
      onClick={() => play(at)}
    >
      <Play size={12} />
      <Text as="span" minW="14px" textAlign="right">
        {number}
      </Text>
    </button>
  </Box>
);

function Words({ row }: { row: Row }) {
  if (!row.in_words) {
    return (
      <Text fontSize="13px" color="quiet">
        no words
      </Text>
    );
  }
  return (
    <Text fontSize="13px" lineHeight="1.35">
      {quoted(row.in_words)} <span style={{ opacity: 0.6 }}>…</span> {quoted(row.out_words)}
    </Text>
  );
}

function Who({ episode, names }: { episode: Episode; names: readonly string[] }) {
  const mode = useMode((m) => m.mode);
  return (
    <Text truncate fontSize="13px" title={names.join(", ")}>
      {names.map((name, i) => {
        const track = episode.tracks.find((t) => t.name === name);
        const colour = track ? inkOf(episode.tracks, track.id, mode).text : undefined;
        return (
          <span key={name} style={{ color: colour }}>
            {i > 0 && ", "}
            {name}
          </span>
        );
      })}
    </Text>
  );
}

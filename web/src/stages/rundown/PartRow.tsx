/** One row of the running order. Forty of them are drawn anew at a stroke when a part is moved, so
 * that their looks stand in a style sheet and each is drawn only when something of its own changed. */
import { Box } from "@chakra-ui/react";
import { GripVertical, Play } from "lucide-react";
import { type DragEvent, memo } from "react";
import type { Episode } from "../../api/client";
import { play } from "../../playback/player";
import { inkOf } from "../../theme/colours";
import { TextField } from "../../theme/fields/TextField";
import { useMode } from "../../theme/mode";
import { clock, figure } from "../../time";
import { DRAGGED, quoted, type Row } from "./parts";
import "./rows.css";

/** What a row calls: the same functions all along, so that they are no reason to draw it. */
export interface RowCalls {
  choose: (id: string) => void;
  name: (id: string, name: string) => void;
  over: (event: DragEvent, place: number) => void;
  sound: (id: string) => void;
  leave: () => void;
  drop: (event: DragEvent) => void;
}

/** A sound that is placed at a part, as its row shows it. */
export interface SoundHere {
  id: string;
  name: string;
  says: string;
  notice: boolean;
}

interface Props {
  row: Row;
  /** What is placed there; told as text, so that a row is drawn only where it changed. */
  sounds: string;
  chosenSound: string | null;
  place: number;
  tracks: Episode["tracks"];
  lufs: number | null | undefined;
  chosen: boolean;
  /** On which side of it what is dragged would come to stand. */
  edge: "before" | "after" | "onto" | undefined;
  calls: RowCalls;
}

export const PartRow = memo(function PartRow(props: Props) {
  const { row, place, tracks, lufs, chosen, edge, calls } = props;
  const at = row.at ?? 0;
  return (
    <tr
      data-rundown-row={row.id}
      data-edge={edge}
      aria-selected={chosen}
      onClick={() => calls.choose(row.id)}
      onFocus={() => calls.choose(row.id)}
      onDragOver={(event) => calls.over(event, place)}
      onDragLeave={calls.leave}
      onDrop={calls.drop}
    >
      <td>
        <div className="start">
          <Box
            as="span"
            draggable
            title="Drag to another place"
            data-grip=""
            onDragStart={(event: DragEvent) => {
              event.dataTransfer.setData(DRAGGED, row.id);
              event.dataTransfer.effectAllowed = "move";
              calls.choose(row.id);
            }}
            onDragEnd={calls.leave}
          >
            <GripVertical size={15} />
          </Box>
          <button
            type="button"
            aria-label={`Play from ${row.name}`}
            title="Play from here"
            onClick={() => play(at)}
          >
            <Play size={12} />
            <span>{place + 1}</span>
          </button>
        </div>
      </td>
      <td>
        <Name id={row.id} place={place} name={row.name} onName={calls.name} />
      </td>
      <td className="small">
        <Words first={row.in_words} last={row.out_words} />
      </td>
      <td className="small cut" title={row.who.join(", ")}>
        <Who tracks={tracks} names={row.who} />
      </td>
      <td className="figure">{clock(row.frames, 0)}</td>
      <td className="figure">{clock(at + row.frames, 0)}</td>
      <td className="figure">{figure(lufs, "").trim()}</td>
      <td className="small">
        {row.music.length > 0 && (
          <span className="cut" title={row.music.join(", ")}>
            {row.music.join(", ")}
          </span>
        )}
        {(JSON.parse(props.sounds) as SoundHere[]).map((one) => (
          <button
            key={one.id}
            type="button"
            className="sound"
            aria-pressed={one.id === props.chosenSound}
            title={one.says}
            onClick={(event) => {
              event.stopPropagation();
              calls.sound(one.id);
            }}
          >
            {one.notice && "! "}
            {one.name}
          </button>
        ))}
      </td>
    </tr>
  );
});

interface NameProps {
  id: string;
  place: number;
  name: string;
  onName: RowCalls["name"];
}

const Name = memo(({ id, place, name, onName }: NameProps) => (
  <TextField
    size="xs"
    fontSize="14px"
    fontWeight="700"
    px="1"
    ml="-1"
    borderColor="transparent"
    _hover={{ borderColor: "rule" }}
    label={`Name of part ${place + 1}`}
    value={name}
    onSet={(text) => onName(id, text)}
  />
));

function Words({ first, last }: { first: string; last: string }) {
  if (!first) return <span className="quiet">no words</span>;
  return (
    <span className="words">
      {quoted(first)} <span className="quiet">…</span> {quoted(last)}
    </span>
  );
}

function Who({ tracks, names }: { tracks: Episode["tracks"]; names: readonly string[] }) {
  const mode = useMode((m) => m.mode);
  return names.map((name, i) => {
    const track = tracks.find((t) => t.name === name);
    const colour = track ? inkOf(tracks, track.id, mode).text : undefined;
    return (
      <span key={name} style={{ color: colour }}>
        {i > 0 && ", "}
        {name}
      </span>
    );
  });
}

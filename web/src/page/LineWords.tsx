/**
 * What is said on a line: under its own sound while there is room, and flowing in paragraphs, by who
 * speaks, on long lines.
 */
import { Button, HStack, Input, Text } from "@chakra-ui/react";
import { type CSSProperties, memo, useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import { type Edit, type Episode, type PageData, RATE, type Splice } from "../api/client";
import { inkOf } from "../theme/colours";
import { useMode } from "../theme/mode";
import { seconds } from "../time";
import { holds, type Span, useView } from "../view/view";
import { type Item, layOut, type Placed, ROW_PX, textWidth, turnsOf } from "./layout";
import { OnLine } from "./OnLine";
import { Says } from "./Says";

interface Line {
  episode: Episode;
  start: number;
  frames: number;
  splices: Splice[];
  onEdit: (edit: Edit) => void;
}

/** What is said between two frames, on one track or on all, in order of time. */
function itemsOf(
  page: PageData | undefined,
  { start, frames, splices }: Pick<Line, "start" | "frames" | "splices">,
  showCuts: boolean,
  track?: string,
): Item[] {
  const items: Item[] = [];
  // Named after the word alone: a cut before it only moves it.
  const named = new Map<string, number>();
  const here = (one: { track: string; start: number }) =>
    (track === undefined || one.track === track) &&
    one.start >= start &&
    one.start < start + frames;
  for (const word of page?.words ?? []) {
    if (!here(word)) continue;
    const name = `${word.take}:${word.word}`;
    const again = named.get(name) ?? 0;
    named.set(name, again + 1);
    const key = `${name}:${again}`;
    items.push({ kind: "word", key, text: word.text, start: word.start, end: word.end, word });
  }
  for (const air of page?.air ?? []) {
    if (!here(air)) continue;
    const end = air.start + air.frames;
    const text = seconds(air.frames);
    items.push({ kind: "air", key: `air${air.start}`, text, start: air.start, end });
  }
  for (const { at, cut, text, frames } of showCuts ? splices : []) {
    const said = text || `⟨${seconds(frames)} cut⟩`;
    items.push({ kind: "cut", key: `cut${cut}`, text: said, start: at, end: at, cut });
  }
  return items.sort((a, b) => a.start - b.start);
}

/** Names where somebody begins to speak whom the track is not named after, or its own voice again. */
function withNames(items: Item[], own: string): Item[] {
  let speaks = "";
  return items.flatMap((item) => {
    if (item.kind !== "word" || item.word.speaker === speaks) return [item];
    speaks = item.word.speaker;
    const { key, start, word } = item;
    const text = speaks || own;
    return [{ kind: "name", key: `${key}:says`, text, start, end: start, word, own }, item];
  });
}

interface StripWordsProps extends Line {
  page: PageData | undefined;
  track: string;
  width: number;
}

/** What is said on one strip, each word under its own sound. */
export function StripWords({ episode, page, track, width, onEdit, ...line }: StripWordsProps) {
  const mode = useMode((m) => m.mode);
  const showCuts = useView((v) => v.showCuts);
  const own = episode.tracks.find((t) => t.id === track)?.name ?? "";
  const { start, frames, splices } = line;
  const { said, others, rows } = useMemo(() => {
    const items = withNames(itemsOf(page, { start, frames, splices }, showCuts, track), own);
    const { placed, rows } = layOut(items, start, frames, width);
    return { said: placed.filter(isSaid), others: placed.filter(isOther), rows };
  }, [page, track, own, start, frames, width, showCuts, splices]);
  const ink = inkOf(episode.tracks, track, mode);
  return (
    <div style={{ position: "relative", height: rows * ROW_PX + 2, color: ink.text }}>
      <Words words={said} />
      {others.map(({ item, x, row }) => (
        <Other key={item.key} item={item} style={{ left: x, top: row * ROW_PX }} onEdit={onEdit} />
      ))}
    </div>
  );
}

type Spoken = Extract<Item, { kind: "word" }>;
type Said = Placed & { item: Spoken };
type Apart = Placed & { item: Exclude<Item, { kind: "word" }> };
const isSaid = (one: Placed): one is Said => one.item.kind === "word";
const isOther = (one: Placed): one is Apart => !isSaid(one);

/** The selection and the hits that reach into a stretch. */
function useMarked(low: number, high: number) {
  const here = (span: Span) => span.start < high && span.end > low;
  const selection = useView((v) => (v.selection && here(v.selection) ? v.selection : null));
  const hits = useView(
    useShallow((v) => v.hits.filter((h) => here({ start: h.start, end: h.start + h.frames }))),
  );
  return { selection, hits };
}

/** A word as it stands in a row or in a paragraph. */
function spoken(
  item: Spoken,
  { selection, hits }: ReturnType<typeof useMarked>,
  style?: CSSProperties,
) {
  const { word } = item;
  const hit = hits.some(
    (h) => h.track === word.track && item.start >= h.start && item.end <= h.start + h.frames,
  );
  const unsure = word.confidence < 0.4 && !word.corrected;
  return (
    <span
      key={item.key}
      className="at-word"
      data-word={`${word.take}:${word.word}`}
      data-start={item.start}
      data-end={item.end}
      data-marked={holds(selection, item) ? "" : undefined}
      data-hit={hit ? "" : undefined}
      data-filler={word.kind === "filler" ? "" : undefined}
      data-unsure={unsure ? "" : undefined}
      style={style}
      title={unsure ? "Not sure of this word" : undefined}
    >
      {item.text}
    </span>
  );
}

/** The words of a strip, all at once: a line holds dozens, and each edit draws hundreds anew. */
const Words = memo(function Words({ words }: { words: Said[] }) {
  const marked = useMarked(words[0]?.item.start ?? 0, words.at(-1)?.item.end ?? 0);
  const rows: Said[][] = [];
  for (const one of words) {
    rows[one.row] ??= [];
    rows[one.row]?.push(one);
  }
  return rows.map((row, at) => {
    let reached = 0;
    return (
      // biome-ignore lint/suspicious/noArrayIndexKey: rows have nothing but their place
      <div key={at} className="at-row" style={{ top: at * ROW_PX }}>
        {row.map(({ item, x }) => {
          const marginLeft = x - reached;
          reached = x + textWidth(item.text);
          return spoken(item, marked, { marginLeft });
        })}
      </div>
    );
  });
});

/** What is said on a long line, in paragraphs by who speaks. */
export function Turns({ episode, page, onEdit, ...line }: Line & { page: PageData }) {
  const mode = useMode((m) => m.mode);
  const showCuts = useView((v) => v.showCuts);
  const marked = useMarked(line.start, line.start + line.frames);
  const { start, frames, splices } = line;
  const turns = useMemo(
    () => turnsOf(itemsOf(page, { start, frames, splices }, showCuts)),
    [page, start, frames, splices, showCuts],
  );
  const voices = episode.tracks.filter((t) => t.kind === "voice").length + episode.speakers.length;
  return turns.map(({ track, speaker, items }) => {
    const first = items.find((item) => item.kind === "word");
    const own = episode.tracks.find((t) => t.id === track)?.name ?? "";
    return (
      <p
        key={items[0]?.key}
        className="at-turn"
        data-flow=""
        data-track={track || undefined}
        style={{ color: inkOf(episode.tracks, track, mode).text }}
      >
        {(voices > 1 || speaker) && first && (
          <>
            <Says word={first.word} own={own} onEdit={onEdit} />{" "}
          </>
        )}
        {items.map((item) => [
          item.kind === "word" ? (
            spoken(item, marked)
          ) : (
            <Other key={item.key} item={item} onEdit={onEdit} />
          ),
          " ",
        ])}
      </p>
    );
  });
}

/** Lengths that air is often set to. */
const AIR_LENGTHS = [0.4, 0.6, 0.8] as const;

interface OtherProps {
  item: Exclude<Item, { kind: "word" }>;
  style?: CSSProperties;
  onEdit: (edit: Edit) => void;
}

function Other({ item, style, onEdit }: OtherProps) {
  if (item.kind === "air") return <AirHere item={item} style={style} onEdit={onEdit} />;
  if (item.kind === "name") {
    return <Says word={item.word} own={item.own} style={style} onEdit={onEdit} />;
  }
  return (
    <button
      type="button"
      className="at-cut"
      data-cut-words={item.cut}
      style={style}
      title="Cut. Click to open the splice."
      onClick={() => useView.setState({ splice: item.cut })}
    >
      {item.text}
    </button>
  );
}

function AirHere({ item, style, onEdit }: OtherProps) {
  const marked = useView((v) => holds(v.selection, item));
  const set = (length: number) => {
    useView.getState().select(null);
    onEdit({
      kind: "set_air",
      start: item.start,
      frames: item.end - item.start,
      to_frames: Math.round(length * RATE),
    });
  };
  const chip = (
    <button
      type="button"
      className="at-air"
      data-air=""
      data-start={item.start}
      data-end={item.end}
      data-marked={marked ? "" : undefined}
      style={style}
      title={`Nobody speaks for ${item.text}. Click to set how long it is.`}
      onClick={() => useView.getState().select({ start: item.start, end: item.end })}
    >
      {item.text}
    </button>
  );
  return (
    <OnLine trigger={chip} label="Silence">
      <Text fontSize="12px" color="quiet" mb="1">
        Nobody speaks for {item.text}. Set it to
      </Text>
      <HStack gap="1">
        {AIR_LENGTHS.map((length) => (
          <Button key={length} size="xs" variant="outline" onClick={() => set(length)}>
            {length} s
          </Button>
        ))}
        <form
          onSubmit={(event) => {
            event.preventDefault();
            const typed = String(new FormData(event.currentTarget).get("length"));
            const length = Number(typed.replace(",", "."));
            if (length > 0) set(length);
          }}
        >
          <HStack gap="1">
            <Input
              name="length"
              size="xs"
              w="56px"
              aria-label="Length of the air in seconds"
              placeholder="s"
            />
            <Button size="xs" type="submit" colorPalette="pine">
              Set
            </Button>
          </HStack>
        </form>
      </HStack>
    </OnLine>
  );
}

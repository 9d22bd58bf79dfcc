/** Snags: what the listener should not hear, one after another, each settled by one key. */
import { Box, Button, Flex, HStack, Input, Text } from "@chakra-ui/react";
import { memo, type ReactNode, useEffect, useState } from "react";
import type { Context } from "../../actions/action";
import { hear, KINDS, listed, type Option, optionsOf, settle, show } from "../../actions/deciding";
import type { Snags as All, Episode, Snag } from "../../api/client";
import { useEdit, useReopen, useSnags } from "../../api/queries";
import { play } from "../../playback/player";
import { Pick } from "../../theme/Pick";
import { complain } from "../../theme/toaster";
import { clock, seconds } from "../../time";
import { type SnagsOf, useView } from "../../view/view";
import { Card } from "../Panel";
import { HeldAgainstScript } from "./Held";
import { Ticked, useLeftOut } from "./Ticked";
import { TidyButton } from "./Tidy";

const MOST_LISTED = 200;

export function Snags({ context }: { context: Context }) {
  const { episode } = context;
  const { data } = useSnags(episode.id, episode.revision);
  const of = useView((v) => v.snagsOf);
  const current = useView((v) => v.snag);
  const review = useView((v) => v.reviewing);
  const setReview = (reviewing: boolean) => useView.setState({ reviewing });
  useEffect(() => {
    useView.setState({ snags: (data?.snags ?? []).filter((s) => !s.kept) });
    return () => useView.setState({ snags: [] });
  }, [data]);
  if (!data) {
    return (
      <Text color="quiet" fontSize="13px" role="status">
        Looking for snags
      </Text>
    );
  }
  const open = data.snags.filter((s) => !s.kept);
  const list = listed(data.snags, of);
  const chosen = data.snags.find((s) => s.id === current);
  const saves = open.reduce((sum, snag) => sum + snag.saves, 0);
  return (
    <Box data-testid="snags">
      <Text fontSize="13px" role="status">
        {open.length === 0 ? (
          data.heard ? (
            "No snag is left."
          ) : (
            "The words are still being written down; snags come with them."
          )
        ) : (
          <>
            <b>{open.length === 1 ? "1 snag" : `${open.length} snags`}</b>
            {saves > 0 && ` · ${seconds(saves)} to save`}
            {!data.heard && " so far; words are still on their way"}
          </>
        )}
      </Text>
      <HStack gap="1.5" my="2">
        {data.tidy.map((tidy) => (
          <TidyButton key={tidy.how} episode={episode} tidy={tidy} />
        ))}
      </HStack>
      <Filter snags={data.snags} of={of} />
      {review ? (
        <Review context={context} list={list} onDone={() => setReview(false)} />
      ) : (
        <>
          {chosen && !chosen.kept && <Chosen context={context} snag={chosen} />}
          <List episode={episode} list={list} current={current} />
          {of.kind !== "all" && of.kind !== "kept" && list.some((s) => s.does !== "keep") && (
            <Button size="xs" variant="outline" mt="2" w="100%" onClick={() => setReview(true)}>
              Settle all {list.length} of them at once
            </Button>
          )}
        </>
      )}
      <Rules context={context} data={data} />
      <HeldAgainstScript episode={episode} />
    </Box>
  );
}

/** Which snags are listed: a kind with its number each. */
function Filter({ snags, of }: { snags: Snag[]; of: SnagsOf }) {
  const counts = new Map<SnagsOf["kind"], number>([
    ["all", listed(snags, { ...of, kind: "all" }).length],
  ]);
  for (const kind of Object.keys(KINDS) as Snag["kind"][]) {
    const count = listed(snags, { ...of, kind }).length;
    if (count) counts.set(kind, count);
  }
  const kept = snags.filter((s) => s.kept).length;
  if (kept) counts.set("kept", kept);
  const says = (kind: SnagsOf["kind"]) =>
    kind === "all" ? "All" : kind === "kept" ? "Kept" : KINDS[kind][1];
  const choose = (next: Partial<SnagsOf>) => useView.setState({ snagsOf: { ...of, ...next } });
  return (
    <Flex gap="1" wrap="wrap" role="group" aria-label="Which snags">
      {[...counts].map(([kind, count]) => (
        <Chip key={kind} on={of.kind === kind} onClick={() => choose({ kind })}>
          {says(kind)} {count}
        </Chip>
      ))}
      <Chip
        on={of.sure}
        title="Only snags that Air Trim is sure of"
        onClick={() => choose({ sure: !of.sure })}
      >
        Sure ones only
      </Chip>
    </Flex>
  );
}

interface ChipProps {
  on: boolean;
  title?: string;
  onClick: () => void;
  children: ReactNode;
}

function Chip({ on, children, ...button }: ChipProps) {
  return (
    <Button
      size="2xs"
      px="2"
      rounded="full"
      variant={on ? "solid" : "outline"}
      colorPalette={on ? "pine" : undefined}
      aria-pressed={on}
      {...button}
    >
      {children}
    </Button>
  );
}

const run = (work: Promise<void>) => void work.catch(complain);

/** The snag that is being decided: why it is one, and what can be done, each with its key. */
function Chosen({ context, snag }: { context: Context; snag: Snag }) {
  const options = optionsOf(snag);
  return (
    <Box mt="2.5">
      <Card data-testid="snag">
        <Flex justify="space-between" align="baseline" fontSize="13px">
          <b>{KINDS[snag.kind][0]}</b>
          <Text color="quiet">
            {clock(snag.start)}
            {snag.saves > 0 && ` · saves ${seconds(snag.saves)}`}
          </Text>
        </Flex>
        {snag.attempts.length > 0 ? (
          <Attempts snag={snag} />
        ) : (
          snag.kind === "filler" && (
            <Text fontFamily="script" fontSize="16px">
              {snag.text}
            </Text>
          )
        )}
        <Text fontSize="13px" color="quiet" mb="2">
          {sentence(snag.reason)}
        </Text>
        <Flex gap="1.5" wrap="wrap">
          {options.map((option, i) => (
            <Button
              key={option.says}
              size="xs"
              px="2"
              variant={i === 0 && option.decision.do !== "keep" ? "solid" : "outline"}
              colorPalette={i === 0 && option.decision.do !== "keep" ? "pine" : undefined}
              onClick={() => run(settle(context, snag, option))}
            >
              {option.says}
              <Key>{option.decision.do === "keep" ? "0" : i + 1}</Key>
            </Button>
          ))}
        </Flex>
        <HStack gap="1.5" mt="1.5">
          {options.length > 1 && (
            <Button
              size="xs"
              px="2"
              variant="ghost"
              onClick={() => hear(snag, options[0] ?? null)}
              title="What it sounds like with what is proposed"
            >
              Hear the result <Key>H</Key>
            </Button>
          )}
          <Button size="xs" px="2" variant="ghost" onClick={() => hear(snag, null)}>
            Hear the original
          </Button>
        </HStack>
      </Card>
    </Box>
  );
}

const sentence = (reason: string) => `${reason.charAt(0).toUpperCase()}${reason.slice(1)}.`;

function Key({ children }: { children: string | number }) {
  return (
    <Box as="kbd" fontSize="11px" opacity="0.75" fontFamily="inherit" aria-hidden="true">
      {children}
    </Box>
  );
}

/** The attempts of a repeat, to be compared. */
function Attempts({ snag }: { snag: Snag }) {
  return (
    <Box as="ol" my="1.5" pl="0" listStyleType="none">
      {snag.attempts.map((attempt, i) => (
        <Flex as="li" key={attempt.start} gap="1.5" align="flex-start" mb="1">
          <Button
            size="2xs"
            variant="outline"
            px="1.5"
            mt="0.5"
            aria-label={`Hear attempt ${i + 1}`}
            onClick={() => play(attempt.start, attempt.start + attempt.frames)}
          >
            {i + 1}
          </Button>
          <Text fontFamily="script" fontSize="15px" lineHeight="1.3" lineClamp="3">
            {attempt.text}
          </Text>
        </Flex>
      ))}
    </Box>
  );
}

interface ListProps {
  episode: Episode;
  list: Snag[];
  current: string | null;
}

/** Told once for all rows: styles of their own, for two hundred, take longer than all else of an
 * edit. */
const ROWS = {
  "& > li": {
    display: "flex",
    alignItems: "center",
    gap: "1",
    borderBottomWidth: "1px",
    borderColor: "rule",
  },
  "& > li[data-current]": { bg: "mark" },
  "& .snag": { display: "flex", gap: "2", flex: "1", minW: "0", p: "1", textAlign: "left" },
  "& .snag > *": { fontSize: "13px", flexShrink: "0" },
  "& .at": { color: "quiet", w: "46px" },
  "& .kind": { w: "70px" },
  "& .text": { flexShrink: "1", fontFamily: "script", truncate: true },
} as const;

interface RowProps {
  snag: Snag;
  current: boolean;
  onReopen: (id: string) => void;
}

const Row = memo(function Row({ snag, current, onReopen }: RowProps) {
  return (
    <li data-current={current || undefined} ref={current ? intoView : undefined}>
      <button
        type="button"
        className="snag"
        aria-current={current ? "true" : undefined}
        onClick={() => show(snag)}
      >
        <span className="at">{clock(snag.start)}</span>
        <span className="kind">{KINDS[snag.kind][0]}</span>
        <span className="text">{snag.text}</span>
      </button>
      {snag.kept && (
        <Button size="2xs" variant="ghost" onClick={() => onReopen(snag.id)}>
          Decide again
        </Button>
      )}
    </li>
  );
});

function List({ episode, list, current }: ListProps) {
  const { mutate } = useReopen(episode.id);
  const seen = new Map<string, number>();
  return (
    <Box maxH="340px" overflowY="auto" mt="2">
      <Box as="ul" css={ROWS} listStyleType="none" aria-label="Snags">
        {list.slice(0, MOST_LISTED).map((snag) => {
          // Sound that was copied has its snags twice.
          const again = seen.get(snag.id) ?? 0;
          seen.set(snag.id, again + 1);
          const key = `${snag.id}:${again}`;
          return <Row key={key} snag={snag} current={snag.id === current} onReopen={mutate} />;
        })}
      </Box>
      {list.length > MOST_LISTED && (
        <Text fontSize="12px" color="quiet" py="1">
          {list.length - MOST_LISTED} more follow as these are settled.
        </Text>
      )}
    </Box>
  );
}

const intoView = (row: HTMLElement | null) => row?.scrollIntoView({ block: "nearest" });

/** All of a kind at once, after a look at each. */
function Review({ context, list, onDone }: { context: Context; list: Snag[]; onDone: () => void }) {
  const { left, toggle } = useLeftOut<string>();
  const able = list.filter((snag) => snag.does !== "keep");
  const going = able.filter((snag) => !left.has(snag.id));
  const way = (snag: Snag): Option | undefined => optionsOf(snag)[0];
  const says = able[0] ? (way(able[0])?.says ?? "Settle") : "Settle";
  return (
    <Box mt="2" data-testid="review">
      <Text fontSize="13px" color="quiet">
        Take the tick off what is to stay as it is. A click plays it as it would be.
      </Text>
      <Box maxH="320px" overflowY="auto" my="1.5">
        {able.map((snag) => (
          <Ticked
            key={snag.id}
            says={`Settle “${snag.text}” at ${clock(snag.start)}`}
            ticked={!left.has(snag.id)}
            onToggle={() => toggle(snag.id)}
          >
            <Box
              as="button"
              flex="1"
              minW="0"
              textAlign="left"
              fontSize="13px"
              onClick={() => {
                show(snag);
                hear(snag, way(snag) ?? null);
              }}
            >
              <Flex gap="2">
                <Text color="quiet" w="46px" flexShrink="0">
                  {clock(snag.start)}
                </Text>
                <Text fontFamily="script" truncate>
                  {snag.text}
                </Text>
              </Flex>
            </Box>
          </Ticked>
        ))}
      </Box>
      <HStack gap="1.5">
        <Button
          size="sm"
          flex="1"
          colorPalette="pine"
          disabled={!going.length}
          onClick={() => {
            const decisions = going.flatMap((snag) => way(snag)?.decision ?? []);
            run(
              context.decide(decisions).then(() => {
                useView.setState({ snag: null });
                useView.getState().select(null);
                onDone();
              }),
            );
          }}
        >
          {says} {going.length === 1 ? "this one" : `these ${going.length}`}
        </Button>
        <Button size="sm" variant="outline" onClick={onDone}>
          Not now
        </Button>
      </HStack>
    </Box>
  );
}

const LIMITS = [1, 1.5, 2, 3, 5] as const;

/** What counts as a snag in this episode. */
function Rules({ context, data }: { context: Context; data: All }) {
  const edit = useEdit(context.episode.id);
  const [text, setText] = useState("");
  const own = data.own_fillers;
  const set = (next: Partial<Counts>) =>
    edit.mutate({
      kind: "set_snag_rules",
      air_limit_s: data.air_limit_s,
      own_fillers: own,
      ...next,
    });
  const limits = [...new Set([...LIMITS, data.air_limit_s])].sort((a, b) => a - b);
  return (
    <Box as="details" mt="3" fontSize="13px">
      <Box as="summary" cursor="pointer" color="quiet">
        What counts as a snag
      </Box>
      <Flex align="center" justify="space-between" mt="2">
        <Text>Air counts as long from</Text>
        <Pick
          name="Air counts as long from"
          w="90px"
          value={String(data.air_limit_s)}
          options={limits.map((s) => [String(s), `${s.toFixed(1)} s`] as const)}
          onPick={(value) => set({ air_limit_s: Number(value) })}
        />
      </Flex>
      <Text mt="2">Your own fillers</Text>
      {own.map((filler) => (
        <Flex key={`${filler.text}:${filler.at_start}`} align="center" gap="1.5">
          <Text flex="1" fontFamily="script">
            “{filler.text}”{filler.at_start && " at the start of a sentence"}
          </Text>
          <Button
            size="2xs"
            variant="ghost"
            aria-label={`Take “${filler.text}” off the list`}
            onClick={() => set({ own_fillers: own.filter((one) => one !== filler) })}
          >
            Off the list
          </Button>
        </Flex>
      ))}
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const wanted = text.trim();
          if (!wanted) return;
          const at_start = wanted.endsWith("…");
          set({ own_fillers: [...own, { text: wanted.replace(/…$/, "").trim(), at_start }] });
          setText("");
        }}
      >
        <Input
          size="xs"
          mt="1"
          aria-label="A filler of your own"
          placeholder="you know · so… for a sentence’s start"
          value={text}
          maxLength={60}
          onChange={(event) => setText(event.target.value.replace("...", "…"))}
        />
      </form>
    </Box>
  );
}

interface Counts {
  air_limit_s: All["air_limit_s"];
  own_fillers: All["own_fillers"];
}

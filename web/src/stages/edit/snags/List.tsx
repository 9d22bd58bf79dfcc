/** The snags that are listed, each a click away. */
import { Box, Button, Text } from "@chakra-ui/react";
import { memo } from "react";
import { type Kinds, nameOf, show } from "../../../actions/deciding";
import type { Episode, Snag } from "../../../api/client";
import { useReopen } from "../../../api/queries";
import { clock } from "../../../time";

const MOST_LISTED = 200;

interface ListProps {
  episode: Episode;
  list: Snag[];
  kinds: Kinds;
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
  name: string;
  current: boolean;
  onReopen: (id: string) => void;
}

const Row = memo(function Row({ snag, name, current, onReopen }: RowProps) {
  return (
    <li data-current={current || undefined} ref={current ? intoView : undefined}>
      <button
        type="button"
        className="snag"
        aria-current={current ? "true" : undefined}
        onClick={() => show(snag)}
      >
        <span className="at">{clock(snag.start)}</span>
        <span className="kind">{name}</span>
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

export function List({ episode, list, kinds, current }: ListProps) {
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
          return (
            <Row
              key={key}
              snag={snag}
              name={nameOf(snag, kinds)}
              current={snag.id === current}
              onReopen={mutate}
            />
          );
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

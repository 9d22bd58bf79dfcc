/** The rows as the host put them: at once, before the server has said the same. */
import { useEffect, useState } from "react";
import type { Edit, Episode, Schemas } from "../../api/client";
import { moved, type Row } from "./parts";

interface Ahead {
  rows: readonly Row[];
  /** The revision that holds them, once it is known. */
  revision?: number;
}

const NONE: readonly Row[] = [];

export function useReordered(
  known: Schemas["RundownView"] | undefined,
  send: (edit: Edit) => Promise<Pick<Episode, "revision">>,
) {
  const [ahead, setAhead] = useState<Ahead | null>(null);
  const caughtUp = known && ahead?.revision !== undefined && known.revision >= ahead.revision;
  useEffect(() => {
    if (caughtUp) setAhead(null);
  }, [caughtUp]);
  const rows = (!caughtUp && ahead?.rows) || known?.rows || NONE;
  const reorder = (section: string, to: string | null) => {
    const mine: Ahead = { rows: moved(rows, section, to) };
    setAhead(mine);
    // Only the last of several says when the server has caught up. What failed was told already.
    send({ kind: "move_part", section, before: to }).then(
      ({ revision }) => setAhead((last) => (last === mine ? { ...mine, revision } : last)),
      () => setAhead((last) => (last === mine ? null : last)),
    );
  };
  return { rows, reorder };
}

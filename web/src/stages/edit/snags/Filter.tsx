/** Which snags are listed: a kind with its number each. */
import { Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { listed } from "../../../actions/deciding";
import type { Snags as All } from "../../../api/client";
import { Toggle } from "../../../theme/Toggle";
import { type SnagsOf, useView } from "../../../view/view";

export function Filter({ data, of }: { data: All; of: SnagsOf }) {
  const { snags } = data;
  const counts = new Map<SnagsOf["kind"], number>([
    ["all", listed(snags, { ...of, kind: "all" }).length],
  ]);
  const titles = new Map<SnagsOf["kind"], string>([
    ["all", "All"],
    ["kept", "Kept"],
  ]);
  for (const { kind, title } of data.kinds) {
    titles.set(kind, title);
    const count = listed(snags, { ...of, kind }).length;
    if (count) counts.set(kind, count);
  }
  const kept = snags.filter((s) => s.kept).length;
  if (kept) counts.set("kept", kept);
  const choose = (next: Partial<SnagsOf>) => useView.setState({ snagsOf: { ...of, ...next } });
  return (
    <Flex gap="1" wrap="wrap" role="group" aria-label="Which snags">
      {[...counts].map(([kind, count]) => (
        <Chip key={kind} on={of.kind === kind} onClick={() => choose({ kind })}>
          {titles.get(kind)} {count}
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
    <Toggle
      size="2xs"
      px="2"
      rounded="full"
      colorPalette={on ? "pine" : undefined}
      on={on}
      {...button}
    >
      {children}
    </Toggle>
  );
}

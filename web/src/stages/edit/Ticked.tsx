/** Rows with a tick each: what is to be done to all but those whose tick was taken off. */
import { Checkbox, Flex } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";

/** Those whose tick was taken off. */
export function useLeftOut<Key>() {
  const [left, setLeft] = useState<ReadonlySet<Key>>(new Set());
  return {
    left,
    toggle: (key: Key) => {
      const next = new Set(left);
      if (!next.delete(key)) next.add(key);
      setLeft(next);
    },
    clear: () => setLeft(new Set()),
  };
}

interface Props {
  says: string;
  ticked: boolean;
  onToggle: () => void;
  children: ReactNode;
}

export function Ticked({ says, ticked, onToggle, children }: Props) {
  return (
    <Flex align="center" gap="1.5" py="1" borderBottomWidth="1px" borderColor="rule">
      <Checkbox.Root size="sm" checked={ticked} onCheckedChange={onToggle}>
        <Checkbox.HiddenInput aria-label={says} />
        <Checkbox.Control />
      </Checkbox.Root>
      {children}
    </Flex>
  );
}

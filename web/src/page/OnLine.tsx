/** Something on a line that opens: what it is, and what can be done about it. */
import { Popover, Portal } from "@chakra-ui/react";
import type { ReactElement, ReactNode } from "react";

export function OnLine({ trigger, children }: { trigger: ReactElement; children: ReactNode }) {
  return (
    <Popover.Root lazyMount positioning={{ placement: "top" }}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content bg="raised" maxW="300px" borderWidth="1px" borderColor="rule">
            <Popover.Body p="3">{children}</Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

/** A button that is there for whoever looks for it. */
import { Button } from "@chakra-ui/react";

export function Quiet({ onClick, children }: { onClick: () => void; children: string }) {
  return (
    <Button size="xs" variant="ghost" color="quiet" onClick={onClick}>
      {children}
    </Button>
  );
}

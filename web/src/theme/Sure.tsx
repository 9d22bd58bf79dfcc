/** A question before something that cannot be undone from here: what is meant, or not. */
import { Button } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Ask } from "./Ask";

interface Props {
  title: string;
  no: string;
  yes: string;
  palette?: "pine" | "red";
  onYes: () => void;
  onClose: () => void;
  children: ReactNode;
}

export function Sure({ title, no, yes, palette = "pine", onYes, onClose, children }: Props) {
  return (
    <Ask
      open
      title={title}
      onClose={onClose}
      foot={
        <>
          <Button variant="outline" onClick={onClose}>
            {no}
          </Button>
          <Button
            colorPalette={palette}
            onClick={() => {
              onClose();
              onYes();
            }}
          >
            {yes}
          </Button>
        </>
      }
    >
      {children}
    </Ask>
  );
}

/** A button that asks once more in its own place before it does what cannot be undone. */
import { Button, Text } from "@chakra-ui/react";
import { useState } from "react";

interface Props {
  children: string;
  /** What has to be known before it is done. */
  but: string;
  trouble?: boolean;
  yes: string;
  onYes: () => Promise<unknown>;
}

export function Twice({ children, but, trouble, yes, onYes }: Props) {
  const [asked, setAsked] = useState(false);
  if (!asked) {
    return (
      <Button size="xs" variant="outline" onClick={() => setAsked(true)}>
        {children}
      </Button>
    );
  }
  return (
    <>
      <Text color={trouble ? "trouble" : undefined}>{but}</Text>
      <Button size="xs" colorPalette="red" onClick={() => void onYes().then(() => setAsked(false))}>
        {yes}
      </Button>
      <Button size="xs" variant="ghost" onClick={() => setAsked(false)}>
        Cancel
      </Button>
    </>
  );
}

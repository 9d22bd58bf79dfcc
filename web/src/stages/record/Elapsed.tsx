/** How much has been recorded. It changes all the time, so it is written, not rendered. */
import { Text } from "@chakra-ui/react";
import { useLayoutEffect, useRef } from "react";
import { useTape } from "../../record/tape";
import { clock } from "../../time";

export function Elapsed({ size }: { size: string }) {
  const text = useRef<HTMLParagraphElement>(null);
  useLayoutEffect(() => {
    const write = () => {
      const now = clock(useTape.getState().frames);
      if (text.current && text.current.textContent !== now) text.current.textContent = now;
    };
    write();
    return useTape.subscribe(write);
  }, []);
  return (
    <Text
      ref={text}
      fontSize={size}
      fontWeight="700"
      lineHeight="1.1"
      h="1.1em"
      contain="strict"
      data-testid="elapsed"
    />
  );
}

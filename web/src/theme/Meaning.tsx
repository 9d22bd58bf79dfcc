/** A unit or a measure that says what it means, and what is good, when it is pressed. */
import { chakra, Popover, Portal, Text } from "@chakra-ui/react";
import { figure } from "../time";
import { MEANINGS, type Measure } from "./meanings";

/** The word itself, underlined with dots; ``children`` where it is written otherwise. */
export function Meaning({ of, children }: { of: Measure; children?: string }) {
  return (
    <Popover.Root lazyMount unmountOnExit positioning={{ placement: "top" }}>
      <Popover.Trigger asChild>
        <chakra.button
          type="button"
          cursor="help"
          font="inherit"
          color="inherit"
          textDecoration="underline dotted"
          textDecorationColor="quiet"
          textUnderlineOffset="3px"
        >
          {children ?? of}
        </chakra.button>
      </Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content
            aria-label={children ?? of}
            bg="raised"
            maxW="300px"
            borderWidth="1px"
            borderColor="rule"
          >
            <Popover.Body p="3" fontSize="13px" fontWeight="400" textAlign="left">
              <Text fontWeight="700">{children ?? of}</Text>
              {MEANINGS[of]}
            </Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

/** A number whose unit says what it means. */
export function Figure({
  value,
  unit,
  digits = 1,
}: {
  value: number | null | undefined;
  unit: Measure & ("LUFS" | "LU" | "dBTP" | "dBFS");
  digits?: number;
}) {
  const text = figure(value, unit, digits);
  if (!text.endsWith(unit)) return <>{text}</>;
  return (
    <>
      {text.slice(0, -unit.length)}
      <Meaning of={unit} />
    </>
  );
}

/**
 * Something on a line that opens: what it is, and what can be done about it. What opens is made only
 * then, since lines hold hundreds of these.
 */
import { Popover, Portal } from "@chakra-ui/react";
import {
  cloneElement,
  type MouseEvent,
  type ReactElement,
  type ReactNode,
  useRef,
  useState,
} from "react";

interface Trigger {
  ref?: unknown;
  onClick?: (event: MouseEvent) => void;
  "aria-haspopup"?: "dialog";
  "aria-expanded"?: boolean;
}

interface Props {
  trigger: ReactElement<Trigger>;
  children: ReactNode;
  /** What it is, for whoever hears it. */
  label: string;
  /** Open or not; without it, it opens by itself. */
  open?: boolean;
  onOpen?: (open: boolean) => void;
  wide?: boolean;
}

const EDGES = ["left", "right"].map((edge) => () => document.querySelector(`[data-edge=${edge}]`));

/** The keyboard goes on inside what has opened. */
const enter = (box: HTMLElement | null) => {
  if (box) requestAnimationFrame(() => box.querySelector<HTMLElement>("button, input")?.focus());
};

export function OnLine({ trigger, children, label, open, onOpen, wide }: Props) {
  const held = useRef<HTMLElement>(null);
  const [own, setOwn] = useState(false);
  const shown = open ?? own;
  const set = (next: boolean) => {
    setOwn(next);
    onOpen?.(next);
  };
  return (
    <>
      {cloneElement<Trigger>(trigger, {
        ref: held,
        "aria-haspopup": "dialog",
        "aria-expanded": shown,
        onClick: (event: MouseEvent) => {
          trigger.props.onClick?.(event);
          set(!shown);
        },
      })}
      {shown && (
        <Popover.Root
          open
          onOpenChange={(event) => set(event.open)}
          positioning={{
            placement: wide ? "right" : "top",
            getAnchorRect: () => held.current?.getBoundingClientRect() ?? null,
          }}
          finalFocusEl={() => held.current}
          // The edges of an open splice are dragged beside it: that does not close it.
          persistentElements={[() => held.current, ...(wide ? EDGES : [])]}
        >
          <Portal>
            <Popover.Positioner>
              <Popover.Content
                aria-label={label}
                bg="raised"
                w={wide ? "336px" : undefined}
                maxW="340px"
                borderWidth="1px"
                borderColor="rule"
              >
                <Popover.Body p="3" ref={enter}>
                  {children}
                </Popover.Body>
              </Popover.Content>
            </Popover.Positioner>
          </Portal>
        </Popover.Root>
      )}
    </>
  );
}

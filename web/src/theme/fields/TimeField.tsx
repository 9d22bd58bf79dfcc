/** A time that is typed: 75, 1:15.5 or 1:02:03. */
import { Input, type InputProps } from "@chakra-ui/react";
import { clock, parseClock } from "../../time";
import { complain } from "../toaster";
import { useTyped } from "./typed";

interface Props extends Omit<InputProps, "onChange" | "value"> {
  label: string;
  /** In frames. */
  at: number;
  digits?: number;
  onSet: (at: number) => void;
}

export function TimeField({ label, at, digits = 2, onSet, ...style }: Props) {
  const typed = useTyped(clock(at, digits), (text) => {
    const to = parseClock(text);
    if (to === null) complain(new Error(`“${text}” is not a time. Write it like 1:15.5.`));
    else onSet(to);
  });
  const says = `${label}. Type a time.`;
  return <Input size="2xs" w="72px" px="1" aria-label={label} title={says} {...style} {...typed} />;
}

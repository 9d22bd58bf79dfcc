/** A number that is typed, with a comma or a point; one out of its range is told. */
import { Input, type InputProps } from "@chakra-ui/react";
import { complain } from "../toaster";
import { useTyped } from "./typed";

/** The range of a gain of the host’s own. */
export const GAIN_DB = { low: -72, high: 24 };

interface Props extends Omit<InputProps, "onChange" | "value"> {
  label: string;
  value: number;
  low: number;
  high: number;
  unit?: string;
  /** Decimals that are shown; as many as there are where it is left out. */
  digits?: number | undefined;
  onSet: (value: number) => void;
}

const written = (text: string) => text.replaceAll("-", "−");

export function NumberField(props: Props) {
  const { label, value, low, high, unit, digits, onSet, ...style } = props;
  const shown = written(digits === undefined ? String(value) : value.toFixed(digits));
  const typed = useTyped(shown, (text) => {
    const number = Number(text.replace("−", "-").replace(",", "."));
    if (!text || number === value) return;
    if (number >= low && number <= high) return onSet(number);
    const range = [written(`${low} and ${high}`), unit].filter(Boolean).join(" ");
    complain(new Error(`${label}: between ${range}, please.`));
  });
  return <Input aria-label={label} inputMode="decimal" {...style} {...typed} />;
}

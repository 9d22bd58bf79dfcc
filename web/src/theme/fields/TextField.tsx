/** A name that is typed in its place. */
import { Input, type InputProps } from "@chakra-ui/react";
import { useTyped } from "./typed";

interface Props extends Omit<InputProps, "onChange" | "value"> {
  label: string;
  value: string;
  /** Whether it may be left empty. */
  optional?: boolean;
  onSet: (text: string) => void;
}

export function TextField({ label, value, optional, onSet, ...style }: Props) {
  const typed = useTyped(value, (text) => (text || optional) && onSet(text));
  return <Input aria-label={label} maxLength={120} {...style} {...typed} />;
}

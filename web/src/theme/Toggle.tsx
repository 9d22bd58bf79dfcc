/** A button that stays pressed. */
import { Button, type ButtonProps } from "@chakra-ui/react";

interface Props extends ButtonProps {
  on: boolean;
  /** How it looks while it is not pressed. */
  off?: "outline" | "ghost";
}

export function Toggle({ on, off = "outline", ...button }: Props) {
  return <Button variant={on ? "solid" : off} aria-pressed={on} {...button} />;
}

/** What is typed, and kept when the field is left or Enter is pressed; Escape takes it back. */
import { type ChangeEvent, type KeyboardEvent, useRef, useState } from "react";

export function useTyped(shown: string, keep: (text: string) => void) {
  const [text, setText] = useState<string | null>(null);
  // Leaving follows a key before the next drawing.
  const typed = useRef<string | null>(null);
  const put = (next: string | null) => {
    typed.current = next;
    setText(next);
  };
  return {
    value: text ?? shown,
    onChange: (event: ChangeEvent<HTMLInputElement>) => put(event.target.value),
    onBlur: () => {
      const given = typed.current?.trim();
      put(null);
      if (given !== undefined && given !== shown) keep(given);
    },
    onKeyDown: (event: KeyboardEvent<HTMLInputElement>) => {
      if (event.key === "Escape") put(null);
      if (event.key === "Enter" || event.key === "Escape") event.currentTarget.blur();
    },
  };
}

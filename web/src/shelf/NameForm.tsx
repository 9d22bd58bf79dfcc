/** A name to be typed in, in the line where it belongs. */
import { Button, HStack, Input } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";

interface Props {
  label: string;
  action: string;
  initial?: string;
  /** It may be left empty. */
  optional?: boolean;
  placeholder?: string;
  /** What else is chosen with it. */
  children?: ReactNode;
  onSet: (name: string) => void;
  onCancel?: () => void;
}

export function NameForm(props: Props) {
  const { label, action, initial = "", optional, placeholder, children, onSet, onCancel } = props;
  const [text, setText] = useState(initial);
  return (
    <form
      style={{ width: "100%" }}
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim() || optional) onSet(text.trim());
      }}
    >
      <HStack>
        <Input
          size="sm"
          maxW="380px"
          bg="raised"
          aria-label={label}
          placeholder={placeholder ?? label}
          value={text}
          maxLength={200}
          autoFocus
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => event.key === "Escape" && onCancel?.()}
        />
        {children}
        <Button size="sm" type="submit" colorPalette="pine" disabled={!text.trim() && !optional}>
          {action}
        </Button>
        {onCancel && (
          <Button size="sm" variant="ghost" onClick={onCancel}>
            Cancel
          </Button>
        )}
      </HStack>
    </form>
  );
}

/** What opens the file chooser, and takes what was chosen; the same file can be chosen twice. */
import { type ReactNode, useRef } from "react";

interface Props {
  accept: string;
  testId?: string;
  label?: string;
  several?: boolean;
  onPick: (files: File[]) => void;
  /** What is pressed. */
  children: (open: () => void) => ReactNode;
}

export function FilePick({ accept, testId, label, several, onPick, children }: Props) {
  const field = useRef<HTMLInputElement>(null);
  return (
    <>
      {children(() => field.current?.click())}
      <input
        ref={field}
        type="file"
        hidden
        accept={accept}
        multiple={several}
        aria-label={label}
        data-testid={testId}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length) onPick(files);
        }}
      />
    </>
  );
}

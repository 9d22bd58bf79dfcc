/** Choosing one of a few: the browser's own list, in our look. */
import { NativeSelect } from "@chakra-ui/react";
import { Labelled } from "./fields/Labelled";

interface Props<V extends string> extends Omit<NativeSelect.RootProps, "onSelect"> {
  name: string;
  value: V;
  options: readonly (readonly [value: V, says: string])[];
  onPick: (value: V) => void;
}

export function Pick<V extends string>({ name, value, options, onPick, ...root }: Props<V>) {
  return (
    <NativeSelect.Root size="xs" {...root}>
      <NativeSelect.Field
        aria-label={name}
        value={value}
        onChange={(event) => onPick(event.target.value as V)}
      >
        {options.map(([one, says]) => (
          <option key={one} value={one}>
            {says}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

/** The entries of a table of names, to be picked from. */
export const named = <V extends string>(names: Record<V, string>) =>
  Object.entries(names) as [V, string][];

/** The same under its name. */
export function LabelledPick<V extends string>(props: Props<V>) {
  return (
    <Labelled says={props.name}>
      <Pick size="sm" {...props} />
    </Labelled>
  );
}

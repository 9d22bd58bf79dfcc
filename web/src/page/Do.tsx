/** A button for an action, with its key told. */
import { Button } from "@chakra-ui/react";
import { createContext, type ReactNode, useContext } from "react";
import { ACTIONS } from "../actions";
import { type Context, perform } from "../actions/action";
import { keysOf, spoken, useChosenKeys } from "../actions/keys";

/** What actions need, for what stands on the lines of the Page. */
export const OnPage = createContext<Context | null>(null);

interface Props {
  id: string;
  /** Of a place that is not on the Page. */
  context?: Context;
  main?: boolean;
  small?: boolean;
  onDone?: () => void;
  children: ReactNode;
}

export function Do({ id, context, main, small, onDone, children }: Props) {
  const chosen = useChosenKeys((k) => k.chosen);
  const own = useContext(OnPage);
  const given = context ?? own;
  const action = ACTIONS.find((a) => a.id === id);
  if (!action || !given) return null;
  const [key] = keysOf(action, chosen);
  return (
    <Button
      size={small ? "2xs" : "xs"}
      px="2.5"
      colorPalette={main ? "pine" : undefined}
      variant={main ? "solid" : "outline"}
      title={key ? `${action.says} (${spoken(key)})` : action.says}
      onClick={() => {
        onDone?.();
        perform(action, given);
      }}
    >
      {children}
    </Button>
  );
}

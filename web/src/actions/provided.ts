/** Actions that only a stage itself can do: it provides them while it is shown. */
import { useEffect, useRef } from "react";

const handlers = new Map<string, () => void>();

/** What an action of the table runs; nothing while its stage provides nothing. */
export const provided = (id: string) => () => handlers.get(id)?.();

/** Provide actions by their ids while a component is shown. */
export function useProvided(actions: Record<string, () => void>) {
  const latest = useRef(actions);
  latest.current = actions;
  useEffect(() => {
    const ids = Object.keys(latest.current);
    for (const id of ids) handlers.set(id, () => latest.current[id]?.());
    return () => {
      for (const id of ids) handlers.delete(id);
    };
  }, []);
}

/** Changes of the shelf, carried out and shown. */
import { useQueryClient } from "@tanstack/react-query";
import { keys } from "../api/queries";
import { complain } from "../theme/toaster";

export type Carry = <T>(change: Promise<T>) => Promise<T | undefined>;

/** Carries out a change of the shelf and shows how it stands then. */
export function useCarry(): Carry {
  const queries = useQueryClient();
  return async <T>(change: Promise<T>): Promise<T | undefined> => {
    try {
      const done = await change;
      await queries.invalidateQueries({ queryKey: keys.shows });
      return done;
    } catch (error) {
      complain(error);
      return undefined;
    }
  };
}

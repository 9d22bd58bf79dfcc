/** Having what is shown read again. */
import type { QueryClient, QueryKey } from "@tanstack/react-query";

/**
 * A first answer that is still on its way may have been read before what happened, and is waited
 * for where it is asked for twice: then it is asked for once more when it has come.
 */
export function lookAgain(queries: QueryClient, queryKey: QueryKey) {
  for (const query of queries.getQueryCache().findAll({ queryKey, fetchStatus: "fetching" })) {
    if (query.state.data !== undefined || query.state.isInvalidated) continue;
    const again = () => queries.invalidateQueries({ queryKey: query.queryKey, exact: true });
    query.promise?.then(again, () => undefined);
  }
  return queries.invalidateQueries({ queryKey });
}

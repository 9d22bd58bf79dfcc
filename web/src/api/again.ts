/** Having what is shown read again. */
import {
  type InvalidateOptions,
  type InvalidateQueryFilters,
  QueryClient,
  type QueryKey,
} from "@tanstack/react-query";

/** What the server holds, as the browser knows it. */
export class Queries extends QueryClient {
  /**
   * A first answer that is still on its way may have been read before what happened, and is waited
   * for where it is asked for twice: then it is asked for once more when it has come.
   */
  override async invalidateQueries<Key extends QueryKey = QueryKey>(
    filters?: InvalidateQueryFilters<Key>,
    options?: InvalidateOptions,
  ) {
    const once = this.getQueryCache()
      .findAll({ ...filters, fetchStatus: "fetching" })
      .filter(({ state }) => state.data === undefined && !state.isInvalidated)
      .map(({ queryKey, promise }) =>
        promise?.then(
          () => super.invalidateQueries({ queryKey, exact: true }, options),
          () => undefined,
        ),
      );
    await Promise.all([super.invalidateQueries(filters, options), ...once]);
  }
}

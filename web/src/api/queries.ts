// What was asked of the server, and asking it again.
import {
  QueryClient,
  type InvalidateOptions,
  type InvalidateQueryFilters,
} from "@tanstack/react-query";

/**
 * A client that asks anew whatever is invalidated, also what has been asked and not answered for
 * the first time yet: that answer may come from before what invalidated it, and would stay.
 */
export class Queries extends QueryClient {
  override async invalidateQueries(
    filters: InvalidateQueryFilters = {},
    options: InvalidateOptions = {},
  ) {
    await this.cancelQueries({
      ...filters,
      fetchStatus: "fetching",
      predicate: (query) => query.state.data === undefined && (filters.predicate?.(query) ?? true),
    });
    await super.invalidateQueries(filters, options);
  }
}

// What was asked of the server, and asking it again.
import {
  CancelledError,
  QueryClient,
  type FetchQueryOptions,
  type QueryKey,
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

  /** Whoever waits for an answer that is asked for anew gets that one. */
  override async fetchQuery<
    TQueryFnData,
    TError = Error,
    TData = TQueryFnData,
    TQueryKey extends QueryKey = QueryKey,
    TPageParam = never,
  >(
    options: FetchQueryOptions<TQueryFnData, TError, TData, TQueryKey, TPageParam>,
  ): Promise<TData> {
    for (;;) {
      try {
        return await super.fetchQuery(options);
      } catch (error) {
        if (!(error instanceof CancelledError)) throw error;
      }
    }
  }
}

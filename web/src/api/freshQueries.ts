import { type InvalidateQueryFilters, QueryClient } from "@tanstack/react-query";

/**
 * What was asked before something changed is not taken for an answer after it: a question under way is asked again, also the first one.
 * With `cancelRefetch: false` it is waited for.
 */
export class FreshQueries extends QueryClient {
  override async invalidateQueries(...[filters, options]: Parameters<QueryClient["invalidateQueries"]>): Promise<void> {
    const waits = options?.cancelRefetch === false;
    const given = waits ? undefined : this.cancelQueries(filters as InvalidateQueryFilters);
    const asked = super.invalidateQueries(filters, options);
    await Promise.all([given, asked]);
  }
}

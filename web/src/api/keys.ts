/** Query keys: everything of one register begins with its slug, so that one call refreshes it all. */
export const keys = {
  registers: ["registers"] as const,
  register: (slug: string) => ["register", slug] as const,
  of: (slug: string, ...rest: readonly (string | number)[]) => ["register", slug, ...rest] as const,
  jobs: ["jobs"] as const,
  tables: ["tables"] as const,
  who: ["who"] as const,
  people: ["people"] as const,
  account: ["account"] as const,
};

/** While the next page or filter loads, keep showing the last one, but never that of another register. */
export function keepWithin(slug: string) {
  return <T>(previous: T | undefined, query: { queryKey: readonly unknown[] } | undefined): T | undefined =>
    query?.queryKey[1] === slug ? previous : undefined;
}

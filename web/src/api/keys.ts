/** Query keys: everything of one register begins with its slug, so that one call refreshes it all. */
export const keys = {
  registers: ["registers"] as const,
  register: (slug: string) => ["register", slug] as const,
  of: (slug: string, ...rest: readonly (string | number)[]) => ["register", slug, ...rest] as const,
  jobs: ["jobs"] as const,
};

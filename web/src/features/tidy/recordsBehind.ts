/** Whose values are looked at: all ("") or those of "source NAME" or "delivery NUMBER". */
export type Scope = string;

export function scopeQuery(scope: Scope): Record<string, string> {
  const [kind = "", ...name] = scope.split(" ");
  return name.length > 0 ? { [kind]: name.join(" ") } : {};
}

/** The address of the records behind a number. */
export function recordsBehind(slug: string, scope: Scope, field: string, check: string, wanted = ""): string {
  const query = new URLSearchParams({ field, check, ...(wanted && { wanted }), ...scopeQuery(scope) });
  return `/r/${slug}/tidy?${query}`;
}

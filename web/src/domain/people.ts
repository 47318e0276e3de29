interface Given {
  slug: string | null;
  role: string;
}

function gathered(pairs: readonly (readonly [string, string])[]): Map<string, string[]> {
  const found = new Map<string, string[]>();
  for (const [key, value] of pairs) found.set(key, [...(found.get(key) ?? []), value]);
  return found;
}

/** Roles as a person says them, those of the same registers together: "steward and clerk in customers, suppliers". */
export function rolesInWords(given: readonly Given[]): string[] {
  const byPlace = gathered(given.map(({ slug, role }) => [slug ?? "every register", role]));
  const byRoles = gathered([...byPlace].map(([place, roles]) => [roles.join(" and "), place]));
  return [...byRoles].map(([roles, places]) => `${roles} in ${places.join(", ")}`);
}

const BROWSERS = [
  ["Firefox/", "Firefox"],
  ["Edg/", "Edge"],
  ["Chrome/", "Chrome or Chromium"],
  ["Safari/", "Safari"],
] as const;
const SYSTEMS = [
  ["Android", "Android"],
  ["iPhone", "iPhone"],
  ["iPad", "iPad"],
  ["Mac OS", "Mac"],
  ["Windows", "Windows"],
  ["Linux", "Linux"],
] as const;

/** A browser as a person knows it, from what it calls itself. */
export function browserInWords(userAgent: string): string {
  const first = (names: readonly (readonly [string, string])[]) =>
    names.find(([part]) => userAgent.includes(part))?.[1];
  const browser = first(BROWSERS);
  const system = first(SYSTEMS);
  if (!browser) return userAgent.slice(0, 40) || "a program";
  return system ? `${browser} on ${system}` : browser;
}

interface Given {
  slug: string | null;
  role: string;
}

/** Roles as a person says them, by where they hold: "steward and clerk in customers". */
export function rolesInWords(given: readonly Given[]): string[] {
  const places = new Map<string, string[]>();
  for (const { slug, role } of given) {
    const place = slug ?? "every register";
    places.set(place, [...(places.get(place) ?? []), role]);
  }
  return [...places].map(([place, roles]) => `${roles.join(" and ")} in ${place}`);
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

import { useSyncExternalStore } from "react";

/** Until there are accounts, a person says once in this browser who they are; the server has a name for who says nothing. */
const KEPT_AS = "odd-pair-name";
const listeners = new Set<() => void>();

export const myName = () => localStorage.getItem(KEPT_AS) ?? "";

export function callMe(name: string) {
  const trimmed = name.trim();
  if (trimmed) localStorage.setItem(KEPT_AS, trimmed);
  else localStorage.removeItem(KEPT_AS);
  for (const listener of listeners) listener();
}

export function useMyName(): string {
  return useSyncExternalStore((listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  }, myName);
}

/** What tells this window from every other one, for as long as it is open. */
export function deskId(): string {
  const kept = sessionStorage.getItem("odd-pair-desk");
  if (kept) return kept;
  const fresh = crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;
  sessionStorage.setItem("odd-pair-desk", fresh);
  return fresh;
}

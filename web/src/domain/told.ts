/** What others can be told, in words. */
export const EVENTS = {
  "golden.added": "a golden record is added",
  "golden.changed": "a golden record changes",
  "golden.merged": "a golden record is merged into another",
  "golden.split": "a golden record is split off",
  "golden.ended": "a golden record ends",
  "delivery.held": "a delivery is held",
  "doubts.waiting": "doubts wait for a person",
} as const;

export type EventKind = keyof typeof EVENTS;
export const EVENT_KINDS = Object.keys(EVENTS) as EventKind[];

/** Which events a receiver hears, in a few words. */
export function heard(kinds: readonly string[]): string {
  return kinds.length === 0 || kinds.length === EVENT_KINDS.length ? "everything" : kinds.join(", ");
}

interface Fares {
  on: boolean;
  failures: number;
  why: string;
  waiting: number;
}

const MOST_COUNTED = 10_000;

/** How a receiver fares, in a few words. */
export function fares({ on, failures, why, waiting }: Fares): string {
  const number = waiting >= MOST_COUNTED ? "10,000 or more" : waiting.toLocaleString("en-GB");
  const waits = waiting > 0 ? `${number} wait` : "nothing waits";
  if (!on) return `told nothing for now, ${waits}`;
  return failures > 0 ? `tried ${failures === 1 ? "once" : `${failures} times`}, ${waits}: ${why}` : waits;
}

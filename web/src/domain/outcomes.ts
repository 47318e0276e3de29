/** What can come of a record of a delivery, in the order in which it is told, and what each means. */
export const OUTCOMES = {
  unchanged: "known before, and delivered as it was",
  updated: "known before, with other values now",
  recognised: "new in its source, and found to be one that is there",
  added: "new: a golden record was made of it",
  doubtful: "new, and a person is asked whether it is one that is there",
  refused: "its source may not bring it: it is not there, or there already",
  ended: "no longer delivered by its source",
} as const;

export type Outcome = keyof typeof OUTCOMES;

export const isOutcome = (word: string): word is Outcome => word in OUTCOMES;

/** Records that refer to something that is not there, beside their outcome. */
export const WITHOUT_PARENT = "without a parent";

/** The outcomes that came up, in their order, with their counts. */
export function outcomesOf(counts: Readonly<Record<string, number>>): [Outcome, number][] {
  return Object.keys(OUTCOMES)
    .filter(isOutcome)
    .map((outcome): [Outcome, number] => [outcome, counts[outcome] ?? 0])
    .filter(([, number]) => number > 0);
}

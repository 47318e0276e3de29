import type { Proposal } from "./queries";

/** What each act is called where proposals are listed and filtered. */
const ACTS: Record<string, string> = {
  decide: "Decision about a pair",
  withdraw: "Decision taken back",
  "decide many": "Many decided at once",
  "withdraw many": "Many taken back at once",
  "decide group": "Decision about a cluster",
  "withdraw group": "Decision about a cluster taken back",
  merge: "Merge",
  "merge group": "Large golden record",
  split: "Split",
  undo: "Step undone",
  pin: "Pin",
  lift: "Pin lifted",
  correct: "Correction",
  "undo correction": "Correction taken back",
  link: "Reference linked",
  "take-back": "Delivery taken back",
  "put-back": "Delivery put back",
  plan: "Match plan",
  rules: "Survivorship rules",
  "put rules back": "Survivorship rules put back",
  "tidy steps": "Tidy steps",
  quality: "Quality rules",
  forget: "A person's data erased",
  source: "What a source counts for",
  layout: "Fields",
  recognise: "Recognition",
  recognisable: "Recognition",
  parents: "Recognition",
  table: "List",
  policy: "What needs a second yes",
};

export const actInWords = (act: string) => ACTS[act] ?? act;

/** Who has to say yes next, and how many said so. */
export function waitsFor({ signatures, needed, next_by }: Proposal): string {
  const whose = next_by.length > 0 ? next_by.join(" or ") : "somebody who signs off";
  return needed > 1 ? `Waits for ${whose}: yes ${signatures.length + 1} of ${needed}` : `Waits for ${whose}`;
}

const ENDED: Record<string, string> = {
  "carried out": "Signed off and carried out",
  withdrawn: "Withdrawn",
  overtaken: "Overtaken",
  closed: "Dealt with",
};

/** How a proposal stands, in a sentence. */
export function standing(proposal: Proposal): string {
  const { state, reason, ended_by, returned_to } = proposal;
  if (state === "waiting") return waitsFor(proposal);
  if (state === "sent back") return `${ended_by} sent it back to ${returned_to || "everybody"}: ${reason}`;
  const told = ENDED[state] ?? state;
  return reason ? `${told}: ${reason}` : `${told}, last by ${ended_by}`;
}

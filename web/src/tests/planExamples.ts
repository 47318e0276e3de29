import { pair, register } from "./examples";

export const BASE = "/api/registers/customers";
export const YAML = `title: Organisations
kind: organisation
limits:
  same: 4.0
  unsure: -6.0
blocking:
  keys:
    - phone.end
comparisons:
  - {field: name, using: organisation_name, label: name}
  - {field: phone, using: phone, label: phone}
conditions:
  - title: other name
    when: {comparison: name, is: [different]}
    then: at most unsure
  - {title: same phone, when: {comparison: phone, is: [equal]}, then: same}
`;
export const plan = {
  version: 2,
  yaml: YAML,
  plan: { limits: { same: 4, unsure: -6 } },
  keys: [{ expression: "phone.end", words: "phone.end (the whole value)" }],
  versions: [
    { version: 2, actor: "ann", note: "stricter", at: "2026-11-01T10:00:00Z" },
    { version: 1, actor: "bo", note: "", at: "2026-10-01T10:00:00Z" },
  ],
};
export const words = {
  fields: [
    { name: "name", label: "Name" },
    { name: "phone", label: "Phone" },
    { name: "email", label: "E-mail" },
  ],
  comparisons: [
    { name: "organisation_name", levels: { equal: "the names are the same", different: "other" }, options: {} },
    { name: "phone", levels: { equal: "the phone is the same", different: "other" }, options: {} },
    { name: "exact", levels: { equal: "the same", different: "other" }, options: {} },
  ],
  takers: { whole: "the whole value", first: "its first n letters" },
};
export const bench = {
  warm: true,
  running: false,
  stage: "",
  done: 0,
  total: 0,
  seconds: 1.2,
  error: "",
  records: 2947,
  kept_bytes: 1000,
  pace_s: 20,
  pace_decisions: 0,
};
const bins = (filled: Record<number, number>) => Array.from({ length: 400 }, (_, bin) => filled[bin] ?? 0);
/** Forty pairs at 10 bits, four at 0. */
export const tried = {
  passes: ["Organisations"],
  number: 0,
  records: 2947,
  held: 44,
  standing_for: 44,
  exact: true,
  same_limit: 4,
  unsure_limit: -6,
  curve: {
    low: -40,
    per_bit: 4,
    free: bins({ 200: 40, 160: 4 }),
    capped: bins({}),
    joining: bins({ 200: 30 }),
    spread: bins({}),
    fixed_same: 0,
    fixed_unsure: 0,
    fixed_different: 0,
    always_joined: 0,
  },
  gained: 3,
  lost: 0,
  conditions: [
    { title: "other name", then: "at most unsure", holds: 10, decides: 10, best_place: 2 },
    { title: "same phone", then: "same", holds: 20, decides: 15, best_place: 1 },
  ],
  comparisons: [
    { name: "phone", label: "phone", decides: 12 },
    { name: "name", label: "name", decides: 4 },
  ],
  measured_again: [],
  others_blocks: false,
  settled: { same: 41, unsure: 3, clusters: 2917, compared: 44, gained: 1, lost: 0, joining: 1, cutting: 0 },
  against_version: 2,
  against_settled: true,
};
export const border = [6, 3, -2].map((score, place) => ({
  left: { ...pair.left, id: 2 * place + 1 },
  right: { ...pair.right, id: 2 * place + 2 },
  score,
  verdict: score >= 4 ? "same" : "unsure",
  verdict_before: "unsure",
  condition: "",
  evidence: pair.evidence,
  reason: `Reason ${place}.`,
  decided: null,
}));

/** What the server says of the plan bench. */
export const answers = {
  [`GET ${BASE}/layout`]: {
    fields: [
      { name: "name", label: "Name" },
      { name: "phone", label: "Phone" },
      { name: "email", label: "E-mail" },
    ],
  },
  "GET /api/registers": [register],
  [`GET ${BASE}/plan`]: plan,
  [`GET ${BASE}/plan/drafts`]: [],
  [`GET ${BASE}/plan/words`]: words,
  [`GET ${BASE}/plan/ready-made`]: [{ name: "Cautious", about: "Merges what is sure.", yaml: `${YAML}# cautious\n` }],
  [`POST ${BASE}/plan/check`]: [],
  [`POST ${BASE}/plan/drafts`]: {
    id: 7,
    title: "Draft",
    yaml: "",
    based_on: 2,
    version: 1,
    actor: "me",
    changed_by: "me",
    changed_at: "2026-11-02T10:00:00Z",
  },
  [`GET ${BASE}/bench`]: bench,
  [`POST ${BASE}/bench/tried`]: tried,
  [`POST ${BASE}/bench/pairs`]: border,
  [`POST ${BASE}/bench/settled`]: null,
  [`GET ${BASE}/runs`]: [],
};

import type { Schemas } from "../api/client";

/** Made-up data of the demo's scenario, as the server would send it. */
export const register: Schemas["RegisterOut"] = {
  slug: "customers",
  name: "Customers",
  kind: "organisation",
  prefix: "CU",
  form: "standard",
  rules: {
    name: [{ by: "most common", field: "", sources: [], values: [] }],
    address: [{ by: "most complete", field: "", sources: [], values: [] }],
    phone: [{ by: "source rank", field: "", sources: [], values: [] }],
  },
  version: 4,
  counts: {
    deliveries: 5,
    drafts: 0,
    records: 2947,
    unsure_waiting: 12,
    put_off: 1,
    golden: 0,
    records_without_golden: 2947,
  },
  run_id: 1,
  run_due: [],
  value_field: "",
};

export const layout: Schemas["LayoutOut"] = {
  version: 4,
  fields: [
    { name: "name", label: "Name", kind: "organisation name", group: "name", added: false, register_slug: "" },
    {
      name: "address.line",
      label: "Street or whole address",
      kind: "address",
      group: "address",
      added: false,
      register_slug: "",
    },
    { name: "address.city", label: "Town", kind: "city", group: "address", added: false, register_slug: "" },
    { name: "phone", label: "Phone", kind: "phone", group: "phone", added: false, register_slug: "" },
  ],
  kinds: ["text", "phone"],
  rules: [
    { name: "consensus", says: "what most sources support", takes: [], needs: [] },
    { name: "newest", says: "the newest", takes: ["field"], needs: [] },
    { name: "source rank", says: "from the most trusted source", takes: ["sources"], needs: [] },
    { name: "most common", says: "the one most agree on", takes: [], needs: [] },
    { name: "most complete", says: "the most complete", takes: [], needs: [] },
    {
      name: "where",
      says: "of a record that fulfils a condition",
      takes: ["field", "values"],
      needs: ["field", "values"],
    },
  ],
  rule_sets: { consensus: ["consensus"], freshest: ["newest", "consensus"] },
};

export const pair: Schemas["PairOut"] = {
  left: {
    id: 1,
    source: "ledger",
    source_key: "00646",
    fields: { name: "Skua Rope Works Ltd", "address.line": "14 Harbour Street", phone: "01632 960001" },
    tidy: { name: "skua rope works", "phone.end": "32960001" },
  },
  right: {
    id: 2,
    source: "till",
    source_key: "000517",
    fields: { name: "SKUA ROPE WORKS", "address.line": "41 QUAY ROAD" },
    tidy: { name: "skua rope works" },
  },
  score: 4.2,
  probability: 0.948,
  verdict: "unsure",
  reason: "The names are the same, but the street in the same town is another.",
  evidence: [
    { field: "name", label: "name", level: "equal", bits: 7.2, sentence: "the names are the same", veto: false },
    { field: "address", label: "address", level: "other street", bits: -3, sentence: "another street", veto: false },
    { field: "phone", label: "phone", level: "missing", bits: 0, sentence: "the phone is missing", veto: false },
  ],
  same_from: 10,
  unsure_from: 3,
  fields: layout.fields.map(({ name, label }) => ({ name, label })),
  decision: null,
  changed: [],
  proposed: "",
  related: [],
  lost_at: "",
  keys: [],
};

export const queued: Schemas["QueuedOut"][] = [1, 3, 5].map((id) => ({
  what: "pair",
  cluster: id,
  left_id: id,
  right_id: id + 1,
  score: 4.2 + id,
  kind: "name=equal|address=other town",
  kind_says: "same name, other town",
  changed: [],
  put_off: id === 5,
  left_name: `Skua ${id}`,
  right_name: `Tern ${id}`,
  records: 2,
  value: 0,
  since: "2026-11-01T10:00:00Z",
  until: null,
  asked: "",
}));

export const golden: Schemas["GoldenOut"] = {
  key: "CU-00001",
  asked_for: "CU-00001",
  version: 3,
  values: { name: "Skua Rope Works Ltd", phone: "01632 960999" },
  origins: [
    {
      unit: "name",
      rule: "most common",
      says: "the one most records agree on",
      source: "ledger",
      source_key: "00646",
      losers: [
        { source: "till", source_key: "000517", values: { name: "SKUA ROPE" }, why: "fewer records agree on it" },
      ],
    },
  ],
  pins: [
    {
      id: 7,
      field: "phone",
      value: "01632 960999",
      reason: "called them",
      actor: "ann",
      at: "2026-11-01T10:00:00Z",
      instead_of: "01632 960001",
    },
  ],
  members: [
    { id: 1, source: "ledger", source_key: "00646", fields: { name: "Skua Rope Works Ltd" }, tidy: {} },
    { id: 2, source: "till", source_key: "000517", fields: { name: "SKUA ROPE", phone: "01632 960001" }, tidy: {} },
  ],
  history: [
    {
      id: 9,
      part: 2,
      kind: "made",
      summary: "Made from 2 records",
      actor: "ann",
      at: "2026-11-01T09:00:00Z",
      undone: false,
      undoable: true,
    },
    {
      id: 8,
      part: 1,
      kind: "split",
      summary: "Took 1 record out",
      actor: "bob",
      at: "2026-10-01T09:00:00Z",
      undone: true,
      undoable: false,
    },
  ],
  held: [
    {
      unit: "name",
      values: { name: "Skua Rope Works Ltd" },
      holders: [{ source: "ledger", source_key: "00646", label: "" }],
    },
    {
      unit: "name",
      values: { name: "Skua Rope" },
      holders: [{ source: "till", source_key: "000517", label: "billing" }],
    },
  ],
  contradictions: { "address.city": ["ribe", "whitby"], phone: ["1", "2"] },
  unsettled: ["address.city"],
  bonds: [{ left_id: 1, right_id: 2, score: 4.25, reason: "The phone is the same." }],
  leads_to: [
    { field: "employer", register_slug: "suppliers", key: "SU-00004", name: "skua ropes", records: 1 },
    { field: "employer", register_slug: "suppliers", key: "", name: "tern", records: 1 },
  ],
  led_from: [{ field: "firm", register_slug: "boat-owners", key: "BO-00002", name: "quayle robert", records: 2 }],
  former_keys: ["CU-00009"],
  updated_at: "2026-11-01T10:00:00Z",
};

export function job(values: Partial<Schemas["JobOut"]> = {}): Schemas["JobOut"] {
  return {
    id: 1,
    kind: "run",
    register_slug: "customers",
    title: "Run the match",
    status: "running",
    stage: "compare",
    done: 250,
    total: 1000,
    stage_s: 10,
    message: "",
    result: null,
    created_at: "2026-11-01T10:00:00Z",
    ended_at: null,
    ...values,
  };
}

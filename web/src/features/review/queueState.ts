import type { Schemas } from "../../api/client";

/** Which doubts a person looks at and in which order, as it stands in the address. */
export interface QueueState {
  order: Schemas["SavedQueue"]["order"];
  search: string;
  kind: string;
  source: string;
  what: Schemas["SavedQueue"]["what"];
  asked: string;
  /** One's own ("mine"), what nobody has ("pool"), or a piece of work by its number. */
  work: string;
}

export const USUAL: QueueState = { order: "doubt", search: "", kind: "", source: "", what: "", asked: "", work: "" };
export const ORDERS = [
  { value: "doubt", label: "Most doubtful first" },
  { value: "score", label: "Highest score first" },
  { value: "cluster", label: "Most records first" },
  { value: "value", label: "Most valuable first" },
  { value: "age", label: "Longest waiting first" },
] as const;

/** Read the queue's state out of an address; what is not understood is as if it were not there. */
export function readState(params: URLSearchParams): QueueState {
  const text = (name: string) => params.get(name) ?? "";
  return {
    order: ORDERS.find(({ value }) => value === text("order"))?.value ?? USUAL.order,
    search: text("search"),
    kind: text("kind"),
    source: text("source"),
    what: text("what") === "pair" || text("what") === "cluster" ? (text("what") as QueueState["what"]) : "",
    asked: text("asked"),
    work: /^(mine|pool|\d{1,9})$/.test(text("work")) ? text("work") : "",
  };
}

/** The address of a state; what is as usual is left out. */
export function writeState(state: QueueState): URLSearchParams {
  const params = new URLSearchParams();
  for (const [name, value] of Object.entries(state))
    if (value !== USUAL[name as keyof QueueState]) params.set(name, value);
  return params;
}

export const isFiltered = (state: QueueState) =>
  JSON.stringify({ ...state, order: USUAL.order }) !== JSON.stringify(USUAL);

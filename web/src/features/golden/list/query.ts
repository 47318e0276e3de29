import type { Schemas } from "../../../api/client";

/** What a person asks of the list, as it stands in the address: filters, order, columns, page. */
export interface ListQuery {
  search: string;
  source: string;
  without: string;
  least_members: number;
  most_members: number;
  country: string;
  changed_since: string;
  pinned: boolean;
  contradictory: boolean;
  empty: string;
  order: Schemas["SavedView"]["order"];
  order_field: string;
  turned: boolean;
  columns: string[];
  page: string;
}

/** The filters among it, which combine with a search. */
export type GoldenFilters = Omit<ListQuery, "search" | "order" | "order_field" | "turned" | "columns" | "page">;

export const NOTHING: ListQuery = {
  search: "",
  source: "",
  without: "",
  least_members: 0,
  most_members: 0,
  country: "",
  changed_since: "",
  pinned: false,
  contradictory: false,
  empty: "",
  order: "match",
  order_field: "",
  turned: false,
  columns: [],
  page: "",
};
/** What is searched stands by how well it fits; without a search, where that says nothing, the largest come first. */
export const orderOf = ({ order, search }: ListQuery): ListQuery["order"] =>
  order === "match" && search.trim() === "" ? "members" : order;
const ORDERS = ["members", "key", "changed", "name", "filled", "match"] as const;

/** Read the list's state out of an address; what is not understood is as if it were not there. */
export function readQuery(params: URLSearchParams): ListQuery {
  const number = (name: string) => Math.max(0, Number.parseInt(params.get(name) ?? "", 10) || 0);
  const text = (name: string) => params.get(name) ?? "";
  return {
    search: text("search"),
    source: text("source"),
    without: text("without"),
    least_members: number("least_members"),
    most_members: number("most_members"),
    country: text("country"),
    changed_since: /^\d{4}-\d{2}-\d{2}$/.test(text("changed_since")) ? text("changed_since") : "",
    pinned: params.has("pinned"),
    contradictory: params.has("contradictory"),
    empty: text("empty"),
    order: ORDERS.find((order) => order === text("order")) ?? NOTHING.order,
    order_field: text("order_field"),
    turned: params.has("turned"),
    columns: text("columns").split(",").filter(Boolean),
    page: text("page"),
  };
}

/** The address of a state of the list; what is as usual is left out. */
export function writeQuery(query: ListQuery): URLSearchParams {
  const params = new URLSearchParams();
  for (const [name, value] of Object.entries(query)) {
    const usual = NOTHING[name as keyof ListQuery];
    if (Array.isArray(value)) {
      if (value.length > 0) params.set(name, value.join(","));
    } else if (value !== usual) params.set(name, value === true ? "1" : String(value));
  }
  return params;
}

/** The filters alone, as the server takes them: for the list and for what is sent out. */
export function asked(query: ListQuery) {
  const {
    columns: _columns,
    page: _page,
    order: _order,
    order_field: _field,
    turned: _turned,
    changed_since,
    ...rest
  } = query;
  const set = Object.entries(rest).filter(([name, value]) => value !== NOTHING[name as keyof ListQuery]);
  return {
    ...(Object.fromEntries(set) as Partial<typeof rest>),
    ...(changed_since && { changed_since: new Date(`${changed_since}T00:00`).toISOString() }),
  };
}

/** Which filters are set, as a person reads them, each with what takes it off again. */
export function filtersOf(
  query: ListQuery,
  labels: Record<string, string>,
): { says: string; off: Partial<ListQuery> }[] {
  const { least_members: least, most_members: most } = query;
  const members =
    least && most ? `${least} to ${most} records` : least ? `${least} records or more` : `up to ${most} records`;
  return [
    query.source && { says: `with a record of ${query.source}`, off: { source: "" } },
    query.without && { says: `without a record of ${query.without}`, off: { without: "" } },
    (least || most) && { says: members, off: { least_members: 0, most_members: 0 } },
    query.country && { says: `country ${query.country}`, off: { country: "" } },
    query.changed_since && { says: `changed since ${query.changed_since}`, off: { changed_since: "" } },
    query.pinned && { says: "with a pinned value", off: { pinned: false } },
    query.contradictory && { says: "with a contradiction", off: { contradictory: false } },
    query.empty && { says: `${labels[query.empty] ?? query.empty} empty`, off: { empty: "" } },
  ].filter((item) => typeof item === "object") as { says: string; off: Partial<ListQuery> }[];
}

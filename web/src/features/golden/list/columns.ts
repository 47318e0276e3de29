import type { Schemas } from "../../../api/client";
import { moment, nameOf } from "../../../domain/format";
import type { GoldenLine } from "./queries";
import { type ListQuery, NOTHING } from "./query";

/** A column of the list: what it shows of a line, and by what it sorts. */
export interface Column {
  name: string;
  label: string;
  shows: (line: GoldenLine) => string;
  sorts: Pick<ListQuery, "order" | "order_field">;
  right?: boolean;
}

const of = (field: string): Column["sorts"] => ({ order: NOTHING.order, order_field: field });
const by = (order: ListQuery["order"]): Column["sorts"] => ({ order, order_field: "" });

const ABOUT: readonly Column[] = [
  { name: "records", label: "Records", shows: (line) => String(line.records), sorts: by("members"), right: true },
  { name: "filled", label: "Filled", shows: (line) => String(line.filled), sorts: by("filled"), right: true },
  { name: "changed", label: "Changed", shows: (line) => moment(line.updated_at).slice(0, 10), sorts: by("changed") },
];
const USUAL = ["name", "address.city", "address.country", "phone", "email", "records", "changed"];

/** All columns that a register's list can show. */
export function allColumns(fields: readonly Schemas["FieldOut"][]): Column[] {
  const values = fields.map(
    ({ name, label }): Column => ({
      name,
      label,
      shows: name === "name" ? (line) => nameOf(line.values) : (line) => line.values[name] ?? "",
      sorts: name === "name" ? by("name") : of(name),
    }),
  );
  return [...values, ...ABOUT];
}

/** The columns that are shown, in the chosen order; the usual ones where none are chosen. */
export function shownColumns(fields: readonly Schemas["FieldOut"][], chosen: readonly string[]): Column[] {
  const known = new Map(allColumns(fields).map((column) => [column.name, column]));
  return (chosen.length > 0 ? chosen : USUAL).flatMap((name) => known.get(name) ?? []);
}

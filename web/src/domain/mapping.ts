import type { Schemas } from "../api/client";

export type Assignment = Schemas["AssignmentModel"];
export type Mapping = readonly Assignment[];

/** Assignments in the order of the file's columns, constants last: the order decides which value is a field's first. */
function ordered(mapping: Mapping, columns: readonly string[]): Assignment[] {
  const place = (item: Assignment) => (item.column ? columns.indexOf(item.column) : columns.length);
  return [...mapping].sort((a, b) => place(a) - place(b));
}

/** Nothing yet: what a column or constant becomes until a field is chosen. */
export const nothing = (column: string): Assignment => ({ field: "", column, constant: "", label: "", continues: 0 });

/** What a column becomes, at least one entry: without any it is not used. */
export function assignmentsOf(mapping: Mapping, column: string): Assignment[] {
  const found = mapping.filter((item) => item.column === column);
  return found.length > 0 ? found : [nothing(column)];
}

/** The mapping with what a column becomes replaced; entries without a field fall away. */
export function withColumn(
  mapping: Mapping,
  columns: readonly string[],
  column: string,
  become: Mapping,
): Assignment[] {
  const others = mapping.filter((item) => item.column !== column);
  return ordered([...others, ...become.filter((item) => item.field)], columns);
}

/** The mapping with its constants replaced. */
export function withConstants(mapping: Mapping, constants: Mapping): Assignment[] {
  return [...mapping.filter((item) => item.column), ...constants];
}

/** What the server is sent: constants that are still being typed are left out. */
export function complete(mapping: Mapping): Assignment[] {
  return mapping.filter((item) => item.field && (item.column || item.constant.trim()));
}

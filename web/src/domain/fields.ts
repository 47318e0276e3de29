/** Which comparison speaks of a field of the layout: the comparison's field, or the start of it ("address" of "address.city"). */
export function comparisonOf(field: string, compared: readonly string[]): string | undefined {
  return compared.find((name) => name === field) ?? compared.find((name) => field.startsWith(`${name}.`));
}

export interface FieldRow {
  name: string;
  label: string;
  left: string;
  right: string;
}

/** The rows of two records face to face: fields that at least one of them fills, in the layout's order. */
export function faceToFace(
  fields: readonly { name: string; label: string }[],
  left: Record<string, string>,
  right: Record<string, string>,
): FieldRow[] {
  return fields
    .map(({ name, label }) => ({ name, label, left: left[name] ?? "", right: right[name] ?? "" }))
    .filter((row) => row.left !== "" || row.right !== "");
}

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

const PLACES = ["", "#2", "#3"];

/** What a record holds in a field, several values between slashes, each with its label if it has one. */
export function valuesOf(field: string, fields: Record<string, string>, labels: Record<string, string> = {}): string {
  return PLACES.map((place) => field + place)
    .filter((name) => fields[name])
    .map((name) => (labels[name] ? `${labels[name]}: ${fields[name]}` : fields[name]))
    .join(" / ");
}

/** The rows of two records face to face: fields that at least one of them fills, in the layout's order. */
export function faceToFace(
  fields: readonly { name: string; label: string }[],
  left: Record<string, string>,
  right: Record<string, string>,
): FieldRow[] {
  return fields
    .map(({ name, label }) => ({ name, label, left: valuesOf(name, left), right: valuesOf(name, right) }))
    .filter((row) => row.left !== "" || row.right !== "");
}

const PARTS: Record<string, readonly string[]> = {
  name: ["name", "name.legal_form", "name.sites"],
  "address.line": [
    "address.number",
    "address.street",
    "address.building",
    "address.floor",
    "address.unit",
    "address.box",
  ],
  phone: ["phone", "phone.extension"],
  // The house number stands with its street.
  "address.number": [],
};

/** Tidy values that belong to a field of the layout: an address's line becomes its parts; further values follow a slash. */
export function tidyOf(field: string, tidy: Record<string, string>): string {
  const parts = PARTS[field] ?? [field];
  return PLACES.map((place) =>
    parts
      .map((name) => tidy[name + place])
      .filter(Boolean)
      .join(" · "),
  )
    .filter(Boolean)
    .join(" / ");
}

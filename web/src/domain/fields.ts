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
  name: ["name", "name.legal_form", "name.sites", "name.given", "name.family", "name.suffix"],
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

/** Whether two records say the same in a field, however they write it: a part of an address may agree where the whole does not. */
export function meansTheSame(field: string, one: Record<string, string>, other: Record<string, string>): boolean {
  const tidy = tidyOf(field, one);
  // A number with and without its country in front ends alike.
  const end = one[`${field}.end`];
  return (tidy !== "" && tidy === tidyOf(field, other)) || (end !== undefined && end === other[`${field}.end`]);
}

/**
 * Names and labels of tidy values in the order of the register's fields: a field's own value, then its parts by their words
 * ("Name: legal form").
 */
export function tidyRowsOf(
  fields: readonly { name: string; label: string }[],
  ...records: readonly Record<string, string>[]
): { name: string; label: string }[] {
  const names = [...new Set(records.flatMap((tidy) => Object.keys(tidy)))]
    .filter((name) => name !== "phone.end")
    .sort();
  const rootOf = (name: string) => name.split(/[.#]/)[0] ?? name;
  const placeOf = (name: string) => {
    const own = fields.findIndex((field) => field.name === name);
    const root = fields.findIndex((field) => rootOf(field.name) === rootOf(name));
    return own >= 0 ? own : root >= 0 ? root + 0.5 : fields.length;
  };
  const labelOf = (name: string) => {
    const own = fields.find((field) => field.name === name);
    if (own) return own.label;
    const root = fields.find((field) => field.name === rootOf(name));
    const whole = root ? name.slice(root.name.length) : name;
    const words = whole.replace(/[._#]/g, " ").trim();
    return root ? `${root.label}: ${words}` : words.charAt(0).toUpperCase() + words.slice(1);
  };
  return names
    .map((name) => ({ name, label: labelOf(name), place: placeOf(name) }))
    .sort((one, other) => one.place - other.place || one.name.localeCompare(other.name))
    .map(({ name, label }) => ({ name, label }));
}

/** A part of a check, as it is chosen. */
export interface Part {
  how: "same" | "first" | "last" | "plan same" | "plan unsure";
  field: string;
  letters: number;
}

export const HOWS = [
  { value: "same", label: "the same" },
  { value: "first", label: "the first letters of" },
  { value: "last", label: "the last letters of" },
  { value: "plan same", label: "the plan says the same" },
  { value: "plan unsure", label: "the plan is unsure, or says the same" },
] as const;

export const isByPlan = (part: Part) => part.how.startsWith("plan");

/** A part without what it does not need: the plan has no field, sameness no number of letters. */
export function plainPart(part: Part): Part {
  if (isByPlan(part)) return { how: part.how, field: "", letters: 0 };
  return part.how === "same" ? { ...part, letters: 0 } : part;
}

/** Fields that a person types; when a source changed something is not for people to say. */
export function typedFields<T extends { name: string; kind: string }>(fields: readonly T[]): T[] {
  return fields.filter(({ name, kind }) => name !== "updated_on" && kind !== "reference");
}

/** Values taken from a reference where the person typed none, or a part of them; what was typed otherwise stays. */
export function filledFrom(
  typed: Readonly<Record<string, string>>,
  taken: Readonly<Record<string, string>>,
): Record<string, string> {
  const isPart = (part: string, whole: string) => whole.toLocaleLowerCase().includes(part.trim().toLocaleLowerCase());
  const filled = Object.entries(taken).filter(([name, value]) => isPart(typed[name] ?? "", value));
  return { ...typed, ...Object.fromEntries(filled) };
}

/** The name that was typed, whole or in its parts. */
export function typedName(typed: Readonly<Record<string, string>>): string {
  const parts = ["name.given", "name.family"].map((name) => typed[name]?.trim() ?? "");
  return typed.name?.trim() || parts.filter(Boolean).join(" ");
}

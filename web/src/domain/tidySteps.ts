import type { Schemas } from "../api/client";

export type StepKind = Schemas["StepKindOut"];
/** A step as it is kept: what it does, and its parameters. */
export type Step = Readonly<Record<string, string>>;
export type Steps = Readonly<Record<string, readonly Step[]>>;

/** A new step of a kind, with the usual parameters; `field` and `table` are what such parameters start with. */
export function newStep(kind: StepKind, start: { field: string; table: string }): Step {
  const first = (ask: string, usual: string) => (ask === "field" ? start.field : ask === "table" ? start.table : usual);
  return {
    do: kind.name,
    ...Object.fromEntries(kind.parameters.map(({ name, ask, default: usual }) => [name, first(ask, usual)])),
  };
}

/** The steps with one moved up or down by one place. */
export function moved(steps: readonly Step[], place: number, by: -1 | 1): Step[] {
  const result = [...steps];
  const [step] = result.splice(place, 1);
  if (step) result.splice(Math.max(0, place + by), 0, step);
  return result;
}

/** The steps of all fields with those of one replaced; a field without steps is left out. */
export function withField(steps: Steps, field: string, become: readonly Step[]): Steps {
  const { [field]: _, ...others } = steps;
  return become.length > 0 ? { ...others, [field]: become } : others;
}

/** Whether two sets of steps say the same. */
export function sameSteps(one: Steps, other: Steps): boolean {
  const plain = (steps: Steps) =>
    Object.keys(steps)
      .sort()
      .map((field) => [field, (steps[field] ?? []).map((step) => Object.entries(step).sort())]);
  return JSON.stringify(plain(one)) === JSON.stringify(plain(other));
}

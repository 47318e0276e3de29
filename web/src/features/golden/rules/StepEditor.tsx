import type { Schemas } from "../../../api/client";
import { Choice } from "../../../ui";
import type { Rule, RuleStep } from "./queries";

export interface Surroundings {
  rules: readonly Rule[];
  fields: readonly Schemas["FieldOut"][];
  sources: readonly string[];
}

/** The units that win or lose as a whole, each once, under the label of its first field. */
export function unitsOf(fields: readonly Schemas["FieldOut"][]) {
  const firsts = new Map<string, Schemas["FieldOut"]>();
  for (const field of fields) if (!firsts.has(field.group)) firsts.set(field.group, field);
  const whole = (group: string) => fields.filter((field) => field.group === group).length > 1;
  return [...firsts.values()].map(({ group, label }) => ({
    value: group,
    label: group === "address" ? "Address" : label,
    whole: whole(group),
  }));
}

interface Props {
  about: string;
  unit: string;
  step: RuleStep;
  within: Surroundings;
  onChange: (step: RuleStep) => void;
}

const ANY = "";

/** One rule of a chain, with what it asks for beside it. */
export function StepEditor({ about, unit, step, within, onChange }: Props) {
  const rule = within.rules.find(({ name }) => name === step.by);
  const takes = rule?.takes ?? [];
  const options = within.rules.map(({ name, says }) => ({ value: name, label: name, hint: says }));
  const fields = within.fields.map(({ name, label }) => ({ value: name, label }));
  const dates = within.fields
    .filter(({ kind }) => kind === "date")
    .map(({ name, label }) => ({ value: name, label: `by ${label}` }));
  const known =
    step.by === "with"
      ? unitsOf(within.fields).filter(({ value }) => value !== unit)
      : step.by === "newest"
        ? [{ value: ANY, label: "by Updated on" }, ...dates.filter(({ value }) => value !== "updated_on")]
        : fields;
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      <Choice
        label={`${about}: rule`}
        value={step.by}
        options={options}
        onChange={(by) => onChange({ by, field: "", sources: [], values: [] })}
        className="w-40"
      />
      {takes.includes("field") && (step.by !== "newest" || known.length > 1) && (
        <Choice
          label={`${about}: field`}
          value={step.field ?? ANY}
          options={known}
          onChange={(field) => onChange({ ...step, field })}
          className="w-44"
        />
      )}
      {takes.includes("sources") && (
        <Choice
          label={`${about}: source first`}
          value={step.sources?.[0] ?? ANY}
          options={[
            { value: ANY, label: "as sources are ranked" },
            ...within.sources.map((name) => ({ value: name, label: `${name} first` })),
          ]}
          onChange={(name) => onChange({ ...step, sources: name === ANY ? [] : [name] })}
          className="w-48"
        />
      )}
      {takes.includes("values") && (
        <input
          // Typed values are taken when the field is left; when they are set otherwise, the field begins anew.
          key={(step.values ?? []).join()}
          aria-label={`${about}: values`}
          placeholder="is one of, e.g. DK, NO"
          defaultValue={(step.values ?? []).join(", ")}
          onBlur={(event) =>
            onChange({
              ...step,
              values: event.target.value
                .split(",")
                .map((value) => value.trim())
                .filter(Boolean),
            })
          }
          className="h-8 w-44 rounded-[3px] border border-line-strong bg-sheet px-2 text-sm placeholder:text-soft"
        />
      )}
    </span>
  );
}

import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { moved, newStep, type Step } from "../../../domain/tidySteps";
import { Choice } from "../../../ui";
import { PatternDialog } from "./PatternDialog";
import type { TidySteps } from "./queries";
import { StepRow } from "./StepRow";

interface Props {
  slug: string;
  tidySteps: TidySteps;
  field: string;
  fields: readonly Schemas["FieldOut"][];
  steps: readonly Step[];
  changedByStep: readonly number[] | undefined;
  onChange: (steps: readonly Step[]) => void;
}

/** The steps of a field in their order, and a way to add one. */
export function StepList({ slug, tidySteps, field, fields, steps, changedByStep, onChange }: Props) {
  const [byExample, setByExample] = useState<number | null>(null);
  const others = fields.filter(({ name }) => name !== field).map(({ name, label }) => ({ value: name, label }));
  const kinds = new Map(tidySteps.kinds.map((kind) => [kind.name, kind]));
  const replace = (place: number, step: Step) => onChange(steps.map((item, at) => (at === place ? step : item)));
  const add = (name: string) => {
    const kind = kinds.get(name);
    if (kind) onChange([...steps, newStep(kind, { field: others[0]?.value ?? "", table: tidySteps.tables[0] ?? "" })]);
  };
  const chosen = byExample === null ? undefined : steps[byExample];
  return (
    <>
      {steps.length === 0 && (
        <p className="py-2 text-sm text-soft">
          No steps: values go as they were delivered to what is done by their kind (legal forms, street types, telephone
          forms).
        </p>
      )}
      <ol>
        {steps.map((step, place) => (
          <StepRow
            key={place}
            number={place + 1}
            last={place === steps.length - 1}
            step={step}
            kind={kinds.get(step.do ?? "")}
            changed={changedByStep?.[place]}
            fields={others}
            tables={tidySteps.tables}
            onChange={(next) => replace(place, next)}
            onMove={(by) => onChange(moved(steps, place, by))}
            onRemove={() => onChange(steps.filter((_, at) => at !== place))}
            onByExample={() => setByExample(place)}
          />
        ))}
      </ol>
      <div className="mt-3 flex items-center gap-2 text-sm">
        <span className="text-soft">Add a step:</span>
        <Choice
          label="Add a step"
          value=""
          options={tidySteps.kinds
            .filter(({ name }) => name !== "swap words" || tidySteps.tables.length > 0)
            .map(({ name, says }) => ({ value: name, label: says }))}
          onChange={add}
          className="w-72"
        />
      </div>
      {byExample !== null && chosen && (
        <PatternDialog
          slug={slug}
          field={field}
          before={steps.slice(0, byExample)}
          onPattern={(pattern) => replace(byExample, { ...chosen, pattern })}
          onClose={() => setByExample(null)}
        />
      )}
    </>
  );
}

import type { Schemas } from "../../api/client";
import { Button } from "../../ui";
import type { Golden } from "./queries";

interface Props {
  golden: Golden;
  fields: readonly Schemas["FieldOut"][];
  onSettle: (field: string) => void;
}

/** What the records of a golden record say that cannot all be true, and how to settle it. */
export function Contradictions({ golden, fields, onSettle }: Props) {
  if (golden.unsettled.length === 0) return null;
  const labelOf = (name: string) => fields.find((field) => field.name === name)?.label ?? name;
  return (
    <section aria-label="Contradictions" className="border-b border-rust bg-sunk px-4 py-1.5 text-sm">
      {golden.unsettled.map((name) => (
        <p key={name} className="flex flex-wrap items-center gap-x-3">
          <span>
            <strong className="font-semibold text-rust">Its records contradict each other: </strong>
            {labelOf(name)} is {(golden.contradictions[name] ?? []).join(" and ")}.
          </span>
          <Button needs="correct" look="quiet" small onClick={() => onSettle(name)}>
            Choose or accept one
          </Button>
          <span className="text-soft">or take out the record that belongs elsewhere.</span>
        </p>
      ))}
    </section>
  );
}

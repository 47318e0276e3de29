import { useId } from "react";
import type { Values } from "./queries";

interface Props {
  fields: readonly { name: string; label: string }[];
  values: Values;
  /** Per field, from which reference its value is. */
  taken: Values;
  onChange: (name: string, value: string) => void;
}

/** What a person knows of somebody, a line per field. */
export function EntryForm({ fields, values, taken, onChange }: Props) {
  return (
    <div className="space-y-1">
      {fields.map(({ name, label }, place) => (
        <Line
          key={name}
          label={label}
          value={values[name] ?? ""}
          from={values[name] ? (taken[name] ?? "") : ""}
          first={place === 0}
          onChange={(value) => onChange(name, value)}
        />
      ))}
    </div>
  );
}

interface LineProps {
  label: string;
  value: string;
  from: string;
  first: boolean;
  onChange: (value: string) => void;
}

function Line({ label, value, from, first, onChange }: LineProps) {
  const id = useId();
  return (
    <div className="grid grid-cols-[8.5rem_1fr] items-center gap-x-2">
      <label htmlFor={id} className="text-sm text-soft">
        {label}
      </label>
      <input
        id={id}
        value={value}
        maxLength={2000}
        autoFocus={first}
        autoComplete="off"
        onChange={(event) => onChange(event.target.value)}
        className="h-8 w-full rounded-[3px] border border-line-strong bg-sheet px-2 text-sm"
      />
      {from && <p className="col-start-2 text-xs text-soft">from {from}</p>}
    </div>
  );
}

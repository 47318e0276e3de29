import { useState } from "react";
import type { Schemas } from "../../api/client";
import { type Assignment, nothing } from "../../domain/mapping";
import { Button, Choice } from "../../ui";

interface Props {
  fields: readonly Schemas["FieldOut"][];
  chosen: readonly Assignment[];
  onChange: (chosen: Assignment[]) => void;
}

export function fieldOptions(fields: readonly Schemas["FieldOut"][]) {
  return fields.map((field) => ({ value: field.name, label: field.label, hint: field.kind }));
}

/** Which fields a column becomes, usually one; a label tells several values of a field apart. */
export function FieldChoices({ fields, chosen, onChange }: Props) {
  const [adding, setAdding] = useState(false);
  const options = [
    { value: "", label: "(not used)" },
    { value: "id", label: "Source's own id" },
    ...fieldOptions(fields),
  ];
  const column = chosen[0]?.column ?? "";
  const shown = adding ? [...chosen, nothing(column)] : chosen;
  const change = (place: number, part: Partial<Assignment>) => {
    setAdding(false);
    onChange(shown.map((item, at) => (at === place ? { ...item, ...part } : item)));
  };
  return (
    <div className="space-y-1">
      {shown.map((item, place) => (
        <div key={place} className="flex items-center gap-1.5">
          <Choice
            label={`Field of ${column}${place > 0 ? `, number ${place + 1}` : ""}`}
            value={item.field}
            options={options}
            onChange={(field) => change(place, { field, continues: 0 })}
            className="min-w-0 flex-1"
          />
          {item.field && item.field !== "id" && (
            <input
              aria-label={`Label of ${column}`}
              placeholder="label"
              title="Tells several values of a field apart: billing, delivery, work…"
              maxLength={40}
              value={item.label}
              onChange={(event) => change(place, { label: event.target.value })}
              className="h-8 w-24 rounded-[3px] border border-line bg-sheet px-2 text-sm placeholder:text-soft"
            />
          )}
          {item.continues > 0 && (
            <Button
              look="quiet"
              className="px-1"
              title={`Where the column before is full, at ${item.continues} letters, the name goes on here. Press to keep the two apart.`}
              onClick={() => change(place, { continues: 0 })}
            >
              goes on ×
            </Button>
          )}
          {place === shown.length - 1 && item.field && (
            <Button
              look="quiet"
              className="px-1"
              title="Also another field"
              aria-label={`Use ${column} for another field too`}
              onClick={() => setAdding(true)}
            >
              +
            </Button>
          )}
        </div>
      ))}
    </div>
  );
}

import type { Schemas } from "../../api/client";
import { type Assignment, type Mapping, nothing, withConstants } from "../../domain/mapping";
import { Button, Choice } from "../../ui";
import { fieldOptions } from "./FieldChoices";

interface Props {
  fields: readonly Schemas["FieldOut"][];
  mapping: Mapping;
  onChange: (mapping: Mapping) => void;
}

/** Values that are the same for every row of the file, such as a country that nobody wrote down. */
export function Constants({ fields, mapping, onChange }: Props) {
  const constants = mapping.filter((item) => !item.column);
  const set = (become: readonly Assignment[]) => onChange(withConstants(mapping, become));
  const change = (place: number, part: Partial<Assignment>) =>
    set(constants.map((item, at) => (at === place ? { ...item, ...part } : item)));
  return (
    <section aria-label="The same for every row" className="flex flex-wrap items-center gap-3 py-2 text-sm">
      <span className="text-soft">The same for every row:</span>
      {constants.map((item, place) => (
        <span key={place} className="flex items-center gap-1.5">
          <Choice
            label={`Field of constant ${place + 1}`}
            value={item.field}
            options={fieldOptions(fields)}
            onChange={(field) => change(place, { field })}
            className="w-44"
          />
          <input
            aria-label={`Constant ${place + 1}`}
            value={item.constant}
            maxLength={1000}
            onChange={(event) => change(place, { constant: event.target.value })}
            className="h-8 w-36 rounded-[3px] border border-line-strong bg-sheet px-2"
          />
          <Button look="quiet" className="px-1" onClick={() => set(constants.filter((_, at) => at !== place))}>
            Remove
          </Button>
        </span>
      ))}
      <Button look="quiet" onClick={() => set([...constants, { ...nothing(""), field: "address.country" }])}>
        Add a constant
      </Button>
    </section>
  );
}

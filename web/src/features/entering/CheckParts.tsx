import { HOWS, isByPlan, type Part } from "../../domain/entering";
import { Button, Choice } from "../../ui";

const MOST_PARTS = 5;

interface Props {
  parts: readonly Part[];
  fields: readonly { name: string; label: string }[];
  onChange: (parts: readonly Part[]) => void;
}

/** The parts of a check, which must all agree. */
export function CheckParts({ parts, fields, onChange }: Props) {
  const change = (place: number, more: Partial<Part>) =>
    onChange(parts.map((part, own) => (own === place ? { ...part, ...more } : part)));
  return (
    <ul className="space-y-2">
      {parts.map((part, place) => (
        <li key={place} className="flex items-center gap-2 text-sm">
          {place > 0 && <span className="text-soft">and</span>}
          <Choice
            label={`How part ${place + 1} agrees`}
            value={part.how}
            options={parts.length > 1 ? HOWS.slice(0, 3) : HOWS}
            onChange={(how) => change(place, { how })}
            className="w-64"
          />
          {!isByPlan(part) && part.how !== "same" && (
            <input
              type="number"
              min={1}
              max={50}
              aria-label={`How many letters of part ${place + 1}`}
              value={part.letters}
              onChange={(event) => change(place, { letters: Number(event.target.value) })}
              className="h-8 w-16 rounded-[3px] border border-line-strong bg-sheet px-2 text-right text-sm"
            />
          )}
          {!isByPlan(part) && (
            <Choice
              label={`Field of part ${place + 1}`}
              value={part.field}
              options={fields.map(({ name, label }) => ({ value: name, label }))}
              onChange={(field) => change(place, { field })}
              className="w-44"
            />
          )}
          {parts.length > 1 && (
            <Button
              look="quiet"
              aria-label={`Remove part ${place + 1}`}
              onClick={() => onChange(parts.filter((_, own) => own !== place))}
            >
              Remove
            </Button>
          )}
        </li>
      ))}
      {parts.length < MOST_PARTS && !parts.some(isByPlan) && (
        <li>
          <Button look="quiet" onClick={() => onChange([...parts, { how: "same", field: "address.city", letters: 5 }])}>
            And…
          </Button>
        </li>
      )}
    </ul>
  );
}

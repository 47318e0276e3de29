import { useState } from "react";
import { Button, TextField, Trouble } from "../../ui";
import { type Referred, useAskReference, useReference } from "./queries";

interface Props {
  slug: string;
  /** What was typed as a name, with which the asking begins. */
  name: string;
  onTake: (one: Referred, from: string) => void;
}

/** Values from a trusted reference, asked by name or number. */
export function ReferencePart({ slug, name, onTake }: Props) {
  const reference = useReference(slug).data;
  const ask = useAskReference(slug);
  const [number, setNumber] = useState("");
  if (!reference) return null;
  return (
    <section aria-label={reference.name} className="border-t border-line pt-3">
      <h2 className="mb-1 text-sm font-semibold">{reference.name}</h2>
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          ask.mutate(number.trim() ? { number: number.trim() } : { name: name.trim() });
        }}
      >
        <TextField
          label="Number, or none to ask by name"
          value={number}
          maxLength={40}
          onChange={(event) => setNumber(event.target.value)}
        />
        <Button type="submit" disabled={ask.isPending || (number.trim() === "" && name.trim() === "")}>
          Ask
        </Button>
      </form>
      {ask.error && <Trouble error={ask.error} />}
      {ask.data?.length === 0 && <p className="mt-1 text-sm text-soft">It knows nobody like that.</p>}
      <ul className="mt-1 divide-y divide-line">
        {ask.data?.map((one) => (
          <li key={one.number} className="flex items-center gap-2 py-1 text-sm">
            <span>
              {one.name} <span className="font-mono text-xs text-soft">{one.number}</span>
              {one.status && <span className="text-soft">, {one.status}</span>}
            </span>
            <Button
              className="ml-auto"
              aria-label={`Fill in from ${one.name}, ${one.number}`}
              onClick={() => onTake(one, `${reference.name} ${one.number}`)}
            >
              Fill in
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

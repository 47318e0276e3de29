import { useEffect, useState } from "react";
import { Button, Choice, Search, useSettledText } from "../../ui";
import { type Sought, useChoices } from "./queries";

interface Props {
  slug: string;
  sought: Sought;
  onChange: (changed: Partial<Sought>) => void;
}

/** By whom, what, when, which words; a record or golden record is chosen where it stands. */
export function Filters({ slug, sought, onChange }: Props) {
  const choices = useChoices(slug).data;
  const [words, setWords] = useState(sought.words);
  const settled = useSettledText(words, 300);
  // What was typed changes the address, not the other way round.
  useEffect(() => {
    if (settled !== sought.words) onChange({ words: settled });
  }, [settled]);
  const options = (all: string, names: readonly string[] = []) => [
    { value: "", label: all },
    ...names.map((name) => ({ value: name, label: name })),
  ];
  const about = sought.golden_key || (sought.record && `record ${sought.record}`);
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Search label="Words, reasons, values" value={words} onChange={setWords} />
      <Choice
        label="By"
        value={sought.actor}
        options={options("Everybody", choices?.people)}
        onChange={(actor) => onChange({ actor })}
        className="w-44"
      />
      <Choice
        label="Act"
        value={sought.kind}
        options={options("Every act", choices?.kinds)}
        onChange={(kind) => onChange({ kind })}
        className="w-40"
      />
      {(["since", "until"] as const).map((name) => (
        <label key={name} className="flex items-center gap-2 text-sm">
          {name}
          <input
            type="date"
            value={sought[name]}
            onChange={(event) => onChange({ [name]: event.target.value })}
            className="h-8 rounded-[3px] border border-line-strong bg-sheet px-2 text-sm"
          />
        </label>
      ))}
      {about && (
        <Button onClick={() => onChange({ record: "", golden_key: "" })} aria-label={`Not only ${about}`}>
          only {about} ×
        </Button>
      )}
    </div>
  );
}

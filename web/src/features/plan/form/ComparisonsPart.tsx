import { useState } from "react";
import type { Place } from "../../../domain/planText";
import { Button, CELL, HEAD } from "../../../ui";
import type { Words } from "../draft/queries";
import type { Editing } from "./editing";
import { DropButton, NumberInput, TextInput, WordChoice } from "./inputs";

export interface Rule {
  field: string;
  using: string;
  label: string;
  called?: string;
  strength?: number;
  options?: Record<string, number | string>;
  bits?: Record<string, number>;
  learned?: Record<string, number>;
}

interface Props {
  edit: Editing;
  words: Words | undefined;
  place?: Place;
}

/** How fields are compared: one line each, that opens to its levels. */
export function ComparisonsPart({ edit, words, place = ["comparisons"] }: Props) {
  const [open, setOpen] = useState(-1);
  const [field, setField] = useState("");
  const rules = edit.get<Rule[]>(place) ?? [];
  const kinds = words?.comparisons.map(({ name }) => name) ?? [];
  const free = words?.fields.map(({ name }) => name).filter((name) => !rules.some((rule) => rule.field === name)) ?? [];
  return (
    <div className="text-sm">
      <ul>
        {rules.map((rule, number) => (
          <li key={rule.called ?? rule.field} className="border-b border-line py-1">
            <div className="grid grid-cols-[minmax(8rem,1fr)_10.5rem_8.5rem_auto] items-center gap-2">
              <button
                type="button"
                aria-expanded={open === number}
                onClick={() => setOpen(open === number ? -1 : number)}
                className="text-left font-medium text-plum hover:underline"
              >
                {rule.label} <span className="font-mono text-xs font-normal text-soft">{rule.field}</span>
              </button>
              <WordChoice
                label={`How ${rule.label} is compared`}
                value={rule.using}
                words={kinds}
                onSet={(value) => edit.set([...place, number, "using"], value)}
              />
              <span className="text-soft">
                strength{" "}
                <NumberInput
                  label={`Strength of ${rule.label}`}
                  step={0.1}
                  width="w-16"
                  value={rule.strength}
                  usual={1}
                  onSet={(value) =>
                    value === undefined
                      ? edit.drop([...place, number, "strength"])
                      : edit.set([...place, number, "strength"], value)
                  }
                />
              </span>
              <span>
                <DropButton label={`No longer compare ${rule.label}`} onDrop={() => edit.drop([...place, number])} />
              </span>
            </div>
            {open === number && <RuleLevels edit={edit} words={words} place={[...place, number]} rule={rule} />}
          </li>
        ))}
      </ul>
      <div className="mt-2 flex items-center gap-2">
        <WordChoice label="Field to compare" value={field} words={free} onSet={setField} />
        <Button
          disabled={!field}
          onClick={() => {
            const label = words?.fields.find(({ name }) => name === field)?.label.toLowerCase() ?? field;
            edit.add(place, { field, using: "exact", label });
            setField("");
          }}
        >
          Compare it
        </Button>
      </div>
    </div>
  );
}

/** The levels of a comparison with their evidence by hand and what decisions taught, and its options. */
function RuleLevels({ edit, words, place, rule }: Props & { place: Place; rule: Rule }) {
  const kind = words?.comparisons.find(({ name }) => name === rule.using);
  if (!kind) return null;
  const setBits = (part: "bits" | "learned", level: string, value: number | undefined) =>
    value === undefined ? edit.drop([...place, part, level]) : edit.set([...place, part, level], value);
  return (
    <div className="mt-1 mb-2 pl-3">
      <div className="flex items-center gap-2">
        called in sentences
        <TextInput
          label="Called in sentences"
          value={rule.label}
          onSet={(value) => edit.set([...place, "label"], value)}
          width="w-40"
        />
      </div>
      {Object.entries(kind.options).map(([name, option]) => (
        <div key={name} className="mt-1 flex items-center gap-2">
          {name}
          {option.words.length > 0 ? (
            <WordChoice
              label={name}
              value={`${rule.options?.[name] ?? option.default}`}
              words={option.words}
              onSet={(value) => edit.set([...place, "options", name], value)}
            />
          ) : (
            <NumberInput
              label={name}
              step={0.05}
              value={rule.options?.[name] as number | undefined}
              usual={option.default}
              onSet={(value) =>
                value === undefined
                  ? edit.drop([...place, "options", name])
                  : edit.set([...place, "options", name], value)
              }
            />
          )}
          <span className="text-xs text-soft">{option.words.length === 0 && `${option.least} to ${option.most}`}</span>
        </div>
      ))}
      <table className="mt-1 w-full">
        <thead>
          <tr>
            {["Level", "Bits by hand", "Learned, ± bits"].map((head) => (
              <th key={head} scope="col" className={HEAD}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {Object.entries(kind.levels).map(([level, says]) => (
            <tr key={level}>
              <td className={CELL} title={says}>
                {level}
              </td>
              <td className={CELL}>
                <NumberInput
                  label={`Bits of ${level}`}
                  value={rule.bits?.[level]}
                  usual="estimated"
                  width="w-24"
                  onSet={(value) => setBits("bits", level, value)}
                />
              </td>
              <td className={CELL}>
                <NumberInput
                  label={`Learned bits of ${level}`}
                  value={rule.learned?.[level]}
                  usual="0"
                  onSet={(value) => setBits("learned", level, value)}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

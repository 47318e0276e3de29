import { Button } from "../../../ui";
import type { Words } from "../draft/queries";
import type { Rule } from "./ComparisonsPart";
import type { Editing } from "./editing";
import { DropButton, NumberInput, WordChoice } from "./inputs";

interface Props {
  edit: Editing;
  words: Words | undefined;
}

interface Veto {
  field: string;
  level: string;
}

interface Group {
  fields: string[];
  share?: number;
  beyond_even?: number;
}

const namesOf = (edit: Editing) => (edit.get<Rule[]>(["comparisons"]) ?? []).map((rule) => rule.called ?? rule.field);

/** Contradictions that nothing outweighs. */
export function VetoesPart({ edit, words }: Props) {
  const vetoes = edit.get<Veto[]>(["vetoes"]) ?? [];
  const rules = edit.get<Rule[]>(["comparisons"]) ?? [];
  const levelsOf = (name: string) => {
    const using = rules.find((rule) => (rule.called ?? rule.field) === name)?.using;
    return Object.keys(words?.comparisons.find((one) => one.name === using)?.levels ?? {});
  };
  return (
    <div className="space-y-1 text-sm">
      {vetoes.map((veto, number) => (
        <div key={`${veto.field} ${veto.level}`} className="flex items-center gap-2">
          <WordChoice
            label="Veto of"
            value={veto.field}
            words={namesOf(edit)}
            onSet={(field) => edit.set(["vetoes", number, "field"], field)}
          />
          is
          <WordChoice
            label="at level"
            value={veto.level}
            words={levelsOf(veto.field)}
            onSet={(level) => edit.set(["vetoes", number, "level"], level)}
          />
          <DropButton label={`Leave out the veto of ${veto.field}`} onDrop={() => edit.drop(["vetoes", number])} />
        </div>
      ))}
      <Button
        onClick={() => {
          const field = namesOf(edit)[0] ?? "name";
          const level = levelsOf(field).at(-1) ?? "different";
          edit.add(["vetoes"], { field, level });
        }}
      >
        Add a veto
      </Button>
    </div>
  );
}

/** Comparisons that agree together by chance. */
export function CorrelatedPart({ edit }: { edit: Editing }) {
  const groups = edit.get<Group[]>(["correlated"]) ?? [];
  const names = namesOf(edit);
  return (
    <div className="space-y-2 text-sm">
      {groups.map((group, number) => (
        <div key={group.fields.join(" ")} className="flex flex-wrap items-center gap-x-3 gap-y-1">
          {names.map((name) => (
            <label key={name} className="flex items-center gap-1">
              <input
                type="checkbox"
                checked={group.fields.includes(name)}
                onChange={() => {
                  const fields = group.fields.includes(name)
                    ? group.fields.filter((one) => one !== name)
                    : [...group.fields, name];
                  if (fields.length > 1) edit.set(["correlated", number, "fields"], fields);
                }}
              />
              {name}
            </label>
          ))}
          <span>
            weaker ones count{" "}
            <NumberInput
              label="Share of the weaker agreements"
              step={0.05}
              width="w-16"
              value={group.share}
              usual={0.5}
              onSet={(value) => edit.set(["correlated", number, "share"], value ?? 0.5)}
            />
          </span>
          <DropButton label="Leave this group out" onDrop={() => edit.drop(["correlated", number])} />
        </div>
      ))}
      <Button disabled={names.length < 2} onClick={() => edit.add(["correlated"], { fields: names.slice(0, 2) })}>
        Add a group
      </Button>
    </div>
  );
}

/** Where weights come from, and what holds a cluster together. */
export function WeightsPart({ edit }: { edit: Editing }) {
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2 text-sm">
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={edit.get<boolean>(["weights", "estimate"]) ?? true}
          onChange={(event) => edit.set(["weights", "estimate"], event.target.checked)}
        />
        estimate weights on the data
      </label>
      <span className="flex items-center gap-2">
        one partner only, where
        <WordChoice
          label="Contest"
          value={edit.get<string>(["weights", "contest"]) ?? "found"}
          words={["found", "promised", "none"]}
          onSet={(value) => edit.set(["weights", "contest"], value)}
        />
      </span>
      <span className="flex items-center gap-2">
        words of sources
        <WordChoice
          label="Wording"
          value={edit.get<string>(["weights", "wording"]) ?? "told"}
          words={["used", "told"]}
          onSet={(value) => edit.set(["weights", "wording"], value)}
        />
      </span>
      <span>
        clusters join from a mean of{" "}
        <NumberInput
          label="Least mean evidence between clusters"
          value={edit.get(["clustering", "least_mean"])}
          usual={0}
          onSet={(value) => edit.set(["clustering", "least_mean"], value ?? 0)}
        />{" "}
        bits
      </span>
      <span>
        a score is worth{" "}
        <NumberInput
          label="Slope of scores"
          step={0.05}
          value={edit.get(["probabilities", "slope"])}
          usual={1}
          onSet={(value) => edit.set(["probabilities", "slope"], value ?? 1)}
        />{" "}
        × its bits, and{" "}
        <NumberInput
          label="Shift of scores"
          step={0.1}
          value={edit.get(["probabilities", "shift"])}
          usual={0}
          onSet={(value) => edit.set(["probabilities", "shift"], value ?? 0)}
        />{" "}
        more, of odds
      </span>
    </div>
  );
}

import type { Words } from "../draft/queries";
import type { Rule } from "./ComparisonsPart";
import { DropButton, WordChoice } from "./inputs";

/** A test of a condition: a group, the opposite of one, or a comparison with the levels it may have. */
export interface Test {
  all?: Test[];
  any?: Test[];
  not?: Test;
  comparison?: string;
  is?: string[];
}

interface Props {
  test: Test;
  rules: readonly Rule[];
  words: Words | undefined;
  onSet: (test: Test | undefined) => void;
}

const WORDS_OF_GROUP = { all: "all of these hold", any: "any of these holds", not: "this does not hold" };
const nameOf = (rule: Rule) => rule.called ?? rule.field;

/** A tree of tests, edited in place. */
export function ConditionTest({ test, rules, words, onSet }: Props) {
  if (test.comparison !== undefined) return <Leaf test={test} rules={rules} words={words} onSet={onSet} />;
  const kind = test.all ? "all" : test.any ? "any" : "not";
  const inner = test.all ?? test.any ?? (test.not ? [test.not] : []);
  const asKind = (to: string, items: Test[]): Test =>
    to === "not" ? { not: items.length === 1 && items[0] ? items[0] : { all: items } } : { [to]: items };
  const replaced = (place: number, by: Test | undefined) =>
    by ? inner.map((one, number) => (number === place ? by : one)) : inner.filter((_, number) => number !== place);
  const first = rules[0];
  const fresh: Test | undefined = first && { comparison: nameOf(first), is: ["equal"] };
  return (
    <fieldset className="mt-1 border-l border-line pl-3">
      <legend className="sr-only">{WORDS_OF_GROUP[kind]}</legend>
      <div className="flex items-center gap-2">
        <WordChoice
          label="Group"
          value={WORDS_OF_GROUP[kind]}
          words={Object.values(WORDS_OF_GROUP)}
          onSet={(said) => {
            const to = Object.entries(WORDS_OF_GROUP).find(([, word]) => word === said)?.[0] ?? kind;
            onSet(asKind(to, inner));
          }}
        />
        <DropButton label="Leave this group out" onDrop={() => onSet(undefined)} />
      </div>
      {inner.map((one, place) => (
        <ConditionTest
          key={`${place} ${one.comparison ?? ""}`}
          test={one}
          rules={rules}
          words={words}
          onSet={(by) => {
            const items = replaced(place, by);
            onSet(items.length > 0 ? asKind(kind, items) : undefined);
          }}
        />
      ))}
      {fresh && kind !== "not" && (
        <p className="mt-1 flex gap-3 text-xs">
          <button
            type="button"
            className="font-medium text-plum hover:underline"
            onClick={() => onSet({ [kind]: [...inner, fresh] })}
          >
            add a comparison
          </button>
          <button
            type="button"
            className="font-medium text-plum hover:underline"
            onClick={() => onSet({ [kind]: [...inner, { any: [fresh] }] })}
          >
            add a group
          </button>
        </p>
      )}
    </fieldset>
  );
}

function Leaf({ test, rules, words, onSet }: Props) {
  const rule = rules.find((one) => nameOf(one) === test.comparison);
  const levels = ["missing", ...Object.keys(words?.comparisons.find(({ name }) => name === rule?.using)?.levels ?? {})];
  const chosen = test.is ?? [];
  const toggled = (level: string) =>
    chosen.includes(level)
      ? chosen.filter((one) => one !== level)
      : levels.filter((one) => one === level || chosen.includes(one));
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
      <WordChoice
        label="Comparison"
        value={test.comparison ?? ""}
        words={rules.map(nameOf)}
        onSet={(comparison) => onSet({ comparison, is: ["equal"] })}
      />
      <span className="text-soft">is</span>
      {levels.map((level) => (
        <label key={level} className="flex items-center gap-1 text-xs">
          <input
            type="checkbox"
            checked={chosen.includes(level)}
            onChange={() => {
              const is = toggled(level);
              if (is.length > 0) onSet({ comparison: test.comparison ?? "", is });
            }}
          />
          {level}
        </label>
      ))}
      <DropButton label={`Leave out ${test.comparison}`} onDrop={() => onSet(undefined)} />
    </div>
  );
}

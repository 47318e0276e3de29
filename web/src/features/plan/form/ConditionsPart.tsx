import type { Place } from "../../../domain/planText";
import { Button } from "../../../ui";
import type { Words } from "../draft/queries";
import type { Rule } from "./ComparisonsPart";
import { ConditionTest, type Test } from "./ConditionTest";
import type { Editing } from "./editing";
import { DropButton, TextInput, WordChoice } from "./inputs";

interface Condition {
  title: string;
  when?: Test;
  then: string;
}

interface Props {
  edit: Editing;
  words: Words | undefined;
  place?: Place;
}

const VERDICTS = ["same", "unsure", "at most unsure", "kept apart", "different"];

/** Verdicts by rule, in their order: the first that holds decides. */
export function ConditionsPart({ edit, words, place = ["conditions"] }: Props) {
  const conditions = edit.get<Condition[]>(place) ?? [];
  const rules = edit.get<Rule[]>(["comparisons"]) ?? [];
  const first = rules[0];
  const moved = (from: number, to: number) => {
    const order = conditions.map((_, number) => number);
    order.splice(to, 0, ...order.splice(from, 1));
    edit.order(place, order);
  };
  return (
    <div className="space-y-3 text-sm">
      {conditions.map((condition, number) => (
        <div key={condition.title} className="border-l-[3px] border-line-strong pl-3">
          <div className="flex items-center gap-2">
            <span className="text-soft">{number + 1}.</span>
            <TextInput
              label={`Title of condition ${number + 1}`}
              value={condition.title}
              onSet={(value) => edit.set([...place, number, "title"], value)}
              width="flex-1"
            />
            <WordChoice
              label={`Then, of condition ${number + 1}`}
              value={condition.then}
              words={VERDICTS}
              onSet={(value) => edit.set([...place, number, "then"], value)}
            />
            <button
              type="button"
              aria-label={`Move condition ${number + 1} up`}
              disabled={number === 0}
              onClick={() => moved(number, number - 1)}
              className="h-7 px-1 text-soft enabled:hover:text-plum disabled:opacity-40"
            >
              ↑
            </button>
            <DropButton label={`Leave out ${condition.title}`} onDrop={() => edit.drop([...place, number])} />
          </div>
          {condition.when ? (
            <ConditionTest
              test={condition.when}
              rules={rules}
              words={words}
              onSet={(test) =>
                test ? edit.set([...place, number, "when"], test) : edit.drop([...place, number, "when"])
              }
            />
          ) : (
            <p className="text-soft">always holds</p>
          )}
        </div>
      ))}
      {first && (
        <Button
          onClick={() =>
            edit.add(place, {
              title: `condition ${conditions.length + 1}`,
              when: { all: [{ comparison: first.called ?? first.field, is: ["equal"] }] },
              then: "at most unsure",
            })
          }
        >
          Add a condition
        </Button>
      )}
    </div>
  );
}

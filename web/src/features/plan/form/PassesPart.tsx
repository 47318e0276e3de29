import { Button } from "../../../ui";
import type { Words } from "../draft/queries";
import { BlockingPart } from "./BlockingPart";
import { ComparisonsPart } from "./ComparisonsPart";
import type { Editing } from "./editing";
import { DropButton, TextInput, WordChoice } from "./inputs";
import { LimitsPart } from "./LimitsPart";
import { ScopePart } from "./ScopePart";

interface Pass {
  title: string;
  works_on?: string;
  limits?: unknown;
  blocking?: unknown;
  scope?: unknown;
  comparisons?: unknown;
  further?: unknown;
}

const WORKS_ON = ["everything", "unmatched", "one unmatched", "ambiguous"];
/** What a pass may say for itself, and with what it begins then. */
const OWN = ["limits", "blocking", "scope", "further"] as const;

interface Props {
  slug: string;
  edit: Editing;
  words: Words | undefined;
}

/** Passes in their order: on what each works, and what it does otherwise than the plan. */
export function PassesPart({ slug, edit, words }: Props) {
  const passes = edit.get<Pass[]>(["passes"]) ?? [];
  const begin = (number: number, part: (typeof OWN)[number]) => {
    const first = words?.fields[0]?.name ?? "name";
    const further = [{ field: first, using: "exact", label: first }];
    const usual = part === "scope" ? { incoming: "anything" } : {};
    edit.set(["passes", number, part], part === "further" ? further : (edit.get<object>([part]) ?? usual));
  };
  return (
    <div className="space-y-3 text-sm">
      {passes.map((pass, number) => (
        <div key={pass.title} className="border-l-[3px] border-line-strong pl-3">
          <div className="flex items-center gap-2">
            <span className="text-soft">{number + 1}.</span>
            <TextInput
              label={`Title of pass ${number + 1}`}
              value={pass.title}
              onSet={(value) => edit.set(["passes", number, "title"], value)}
              width="flex-1"
            />
            on
            <WordChoice
              label={`Pass ${number + 1} works on`}
              value={pass.works_on ?? "everything"}
              words={number === 0 ? ["everything"] : WORKS_ON}
              onSet={(value) => edit.set(["passes", number, "works_on"], value)}
            />
            <DropButton label={`Leave out pass ${pass.title}`} onDrop={() => edit.drop(["passes", number])} />
          </div>
          {pass.limits !== undefined && <LimitsPart edit={edit} place={["passes", number, "limits"]} />}
          {pass.blocking !== undefined && (
            <BlockingPart slug={slug} edit={edit} words={words} place={["passes", number, "blocking"]} />
          )}
          {pass.scope !== undefined && <ScopePart edit={edit} words={words} place={["passes", number, "scope"]} />}
          {pass.further !== undefined && (
            <ComparisonsPart edit={edit} words={words} place={["passes", number, "further"]} />
          )}
          <p className="mt-1 flex gap-3 text-xs">
            {OWN.map((part) => (
              <button
                key={part}
                type="button"
                className="font-medium text-plum hover:underline"
                onClick={() => (pass[part] === undefined ? begin(number, part) : edit.drop(["passes", number, part]))}
              >
                {pass[part] === undefined ? `own ${part}` : `${part} as in the plan`}
              </button>
            ))}
          </p>
        </div>
      ))}
      <Button
        onClick={() =>
          edit.add(
            ["passes"],
            passes.length === 0
              ? { title: "first", limits: edit.get(["limits"]) }
              : { title: `pass ${passes.length + 1}`, works_on: "unmatched" },
          )
        }
      >
        Add a pass
      </Button>
    </div>
  );
}

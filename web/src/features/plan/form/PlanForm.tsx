import { counted } from "../../../domain/format";
import { type PlanText, readPlan } from "../../../domain/planText";
import { Pane } from "../../../ui";
import type { Words } from "../draft/queries";
import { BlockingPart } from "./BlockingPart";
import { ComparisonsPart, type Rule } from "./ComparisonsPart";
import { ConditionsPart } from "./ConditionsPart";
import { type Editing, editingOf } from "./editing";
import { Section } from "./inputs";
import { LimitsPart } from "./LimitsPart";
import { PairEstimate } from "./PairEstimate";
import { PassesPart } from "./PassesPart";
import { RelatedPart } from "./RelatedPart";
import { CorrelatedPart, VetoesPart, WeightsPart } from "./RestPart";
import { ScopePart } from "./ScopePart";

interface Props {
  slug: string;
  yaml: string;
  words: Words | undefined;
  onChange: (yaml: string) => void;
}

const many = (edit: Editing, part: string, noun: string) => counted(edit.get<unknown[]>([part])?.length ?? 0, noun);

/** The plan as a form, part by part; what is edited is the text, so that both are one plan. */
export function PlanForm({ slug, yaml, words, onChange }: Props) {
  const plan: PlanText = readPlan(yaml);
  if (!plan.document)
    return <p className="p-4 text-sm">The text is not readable as a plan at the moment. Mend it under Text.</p>;
  const edit = editingOf(plan, onChange);
  const labels = (edit.get<Rule[]>(["comparisons"]) ?? []).map(({ label }) => label).join(", ");
  const limits = edit.get<{ same: number; unsure: number }>(["limits"]);
  const passes = edit.get<unknown[]>(["passes"])?.length ?? 0;
  return (
    <Pane label="The plan as a form" className="h-full">
      <Section title="Limits" says={`same from ${limits?.same}, in doubt from ${limits?.unsure} bits`} open>
        <LimitsPart edit={edit} />
      </Section>
      <Section title="Comparisons" says={labels} open>
        <ComparisonsPart edit={edit} words={words} />
      </Section>
      <Section title="Conditions" says={`${many(edit, "conditions", "rule")}, the first that holds decides`}>
        <ConditionsPart edit={edit} words={words} />
      </Section>
      <Section title="Blocking" says={counted(edit.get<string[]>(["blocking", "keys"])?.length ?? 0, "key")}>
        <BlockingPart slug={slug} edit={edit} words={words} />
        <div className="mt-3">
          <PairEstimate slug={slug} yaml={yaml} />
        </div>
      </Section>
      <Section title="Passes" says={passes > 0 ? counted(passes, "pass", "passes") : "one pass over everything"}>
        <PassesPart slug={slug} edit={edit} words={words} />
      </Section>
      <Section title="Scope" says={edit.get(["scope"]) ? "some records meet" : "everything may meet everything"}>
        <ScopePart edit={edit} words={words} place={["scope"]} />
      </Section>
      <Section title="Related records" says={counted(edit.get<unknown[]>(["related"])?.length ?? 0, "register")}>
        <RelatedPart edit={edit} words={words} />
      </Section>
      <Section title="Vetoes" says={many(edit, "vetoes", "contradiction")}>
        <VetoesPart edit={edit} words={words} />
      </Section>
      <Section title="Correlated" says={many(edit, "correlated", "group")}>
        <CorrelatedPart edit={edit} />
      </Section>
      <Section title="Weights and clusters" says="estimated, contested, held together">
        <WeightsPart edit={edit} />
      </Section>
    </Pane>
  );
}

import { lazy, Suspense, useState } from "react";
import { useSearchParams } from "react-router";
import { Loading, Tabs, useSettledText } from "../../ui";
import { BenchEffect, SIDES } from "./BenchEffect";
import { DifferencePane } from "./draft/DifferencePane";
import { DraftBar } from "./draft/DraftBar";
import { type Draft, useProblems, useWords } from "./draft/queries";
import { useDraft } from "./draft/useDraft";
import { PlanForm } from "./form/PlanForm";
import type { Plan } from "./queries";
import { RunsSide } from "./runs/RunsSide";

const PlanTextEditor = lazy(() =>
  import("./text/PlanTextEditor").then(({ PlanTextEditor }) => ({ default: PlanTextEditor })),
);

type Left = "form" | "text" | "difference";

interface Props {
  slug: string;
  plan: Plan;
  drafts: readonly Draft[];
  records: number;
}

/** The plan as form, as text and as what is different; beside it what it does, at the border, and what runs found. */
export function PlanBench({ slug, plan, drafts, records }: Props) {
  const [params, setParams] = useSearchParams();
  const [left, setLeft] = useState<Left>("form");
  const side = params.has("run") ? "runs" : (SIDES.find(({ tab }) => tab === params.get("side"))?.tab ?? "effect");
  const open = useDraft(slug, plan, drafts);
  const still = useSettledText(open.yaml, 250);
  const problems = useProblems(slug, still);
  const words = useWords(slug);
  const found = problems.data ?? [];
  const valid = problems.data !== undefined && found.length === 0;
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_minmax(0,1.25fr)]">
      <section aria-label="The plan" className="flex min-h-0 flex-col">
        <DraftBar slug={slug} plan={plan} drafts={drafts} open={open} problems={found.length} />
        <div className="border-b border-line px-4 pt-1">
          <Tabs
            label="Ways to see the plan"
            tabs={[
              { tab: "form", label: "Form" },
              { tab: "text", label: "Text" },
              { tab: "difference", label: `Against version ${plan.version}` },
            ]}
            chosen={left}
            onChoose={(tab) => setLeft(tab as Left)}
          />
        </div>
        <div className="min-h-0 flex-1">
          {left === "form" && <PlanForm slug={slug} yaml={open.yaml} words={words.data} onChange={open.change} />}
          {left === "text" && (
            <Suspense fallback={<Loading />}>
              <PlanTextEditor value={open.yaml} problems={found} words={words.data} onChange={open.change} />
            </Suspense>
          )}
          {left === "difference" && <DifferencePane slug={slug} yaml={still} against={plan.version} />}
        </div>
        {found.length > 0 && (
          <ul
            aria-label="Problems"
            className="max-h-28 overflow-auto border-t border-rust bg-rust-wash px-4 py-1 text-sm"
          >
            {found.map((problem) => (
              <li key={`${problem.line} ${problem.says}`}>
                line {problem.line}: {problem.says}
              </li>
            ))}
          </ul>
        )}
      </section>
      <section aria-label="What it does" className="flex min-h-0 flex-col border-l border-line">
        <BenchEffect
          slug={slug}
          plan={plan}
          yaml={still}
          valid={valid}
          records={records}
          side={side}
          onSide={(next) =>
            setParams(next === "effect" ? keepDraft(params) : { ...keepDraft(params), side: next }, { replace: true })
          }
          onChange={open.change}
          text={open.yaml}
        >
          <RunsSide slug={slug} plan={plan} yaml={still} valid={valid} />
        </BenchEffect>
      </section>
    </div>
  );
}

function keepDraft(params: URLSearchParams): Record<string, string> {
  const draft = params.get("draft");
  return draft ? { draft } : {};
}

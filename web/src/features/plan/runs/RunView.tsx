import { useState } from "react";
import { Link, useParams } from "react-router";
import { count, counted, moment } from "../../../domain/format";
import { type PassReport, type Plan, passesOf, type Run, type RunReport } from "../queries";
import { ContestNote } from "./ContestNote";
import { Histogram } from "./Histogram";
import { KeyTable } from "./KeyTable";
import { PassTable } from "./PassTable";
import { WordingNote } from "./WordingNote";

function Figures({ report }: { report: RunReport }) {
  const figures = [
    ["records", count(report.records)],
    ["pairs compared", count(report.compared)],
    ["pairs the same", count(report.pairs_same)],
    ["pairs in doubt", count(report.pairs_unsure)],
    ["held apart by a veto", count(report.bands.vetoed)],
    ["clusters", count(report.clusters)],
  ];
  return (
    <dl className="flex flex-wrap gap-x-6 gap-y-1 py-2 text-sm">
      {figures.map(([name, value]) => (
        <div key={name} className="flex flex-col-reverse">
          <dt className="text-xs text-soft">{name}</dt>
          <dd className="font-mono text-base font-semibold">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** What a run found: figures, passes, the distribution of scores with the limits, and what each blocking key brought. */
export function RunView({ run, plan }: { run: Run; plan: Plan }) {
  const { slug = "" } = useParams();
  const [chosen, setChosen] = useState(0);
  const report = run.report as unknown as RunReport;
  const passes = passesOf(report);
  const shown = Math.min(chosen, passes.length - 1);
  const pass = passes[shown];
  return (
    <>
      <h2 className="pt-3 font-semibold">
        {run.purpose === "trial" ? `Trial ${run.title || "of the plan"} of` : "Run of"} {moment(run.at)}{" "}
        <span className="font-normal text-soft">
          {run.yaml ? "with a plan of its own" : `with version ${report.plan_version} of the plan`}
        </span>
      </h2>
      <Figures report={report} />
      {run.purpose === "standing" && (
        <Link to={`/r/${slug}/review`} className="text-sm font-medium text-plum hover:underline">
          Review the doubtful →
        </Link>
      )}
      {pass?.counts && <PassTable slug={slug} run={run.id} passes={passes} shown={shown} onShow={setChosen} />}
      {pass && <PassView pass={pass} plan={plan} />}
      {report.ignored_decisions > 0 && (
        <p className="mt-1 text-sm">
          {counted(report.ignored_decisions, "decision")} contradict others and could not be followed.
        </p>
      )}
    </>
  );
}

function PassView({ pass, plan }: { pass: PassReport; plan: Plan }) {
  const limits = pass.limits ?? plan.plan.limits;
  const words = new Map(plan.keys.map((key) => [key.expression, key.words]));
  return (
    <>
      <Histogram histogram={pass.histogram} same={limits.same} unsure={limits.unsure} />
      {pass.contest && <ContestNote contest={pass.contest} />}
      {pass.wording && pass.wording.length > 0 && <WordingNote habits={pass.wording} />}
      <KeyTable
        heads={["Blocks", "Largest", "Pairs", "Found first"]}
        rows={pass.keys.map((key) => ({
          key: key.key,
          words: words.get(key.key),
          figures: [key.blocks, key.largest_block, key.pairs_proposed, key.pairs_first_found],
        }))}
      />
      {pass.left_out.length > 0 ? (
        <p className="mt-2 text-sm">
          Left out as too large even after narrowing:{" "}
          {pass.left_out
            .map((block) => `${block.key} = ${block.value} (${counted(block.records, "record")})`)
            .join("; ")}
        </p>
      ) : (
        <p className="mt-2 text-sm text-soft">No block was too large: every proposed pair was compared.</p>
      )}
    </>
  );
}

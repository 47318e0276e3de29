import { useState } from "react";
import { moment } from "../../domain/format";
import { Button, notify, TextField, Trouble } from "../../ui";
import { PairEstimate } from "./PairEstimate";
import { type Plan, useSavePlan, useStartTrial } from "./queries";

/** The plan as text; saving makes a new version, and every problem is said at once. */
export function PlanEditor({ slug, plan }: { slug: string; plan: Plan }) {
  const [yaml, setYaml] = useState(plan.yaml);
  const [note, setNote] = useState("");
  const save = useSavePlan(slug);
  const trial = useStartTrial(slug);
  const changed = yaml !== plan.yaml;
  const latest = plan.versions[0];
  const submit = () =>
    save.mutate(
      { yaml, note, seen_version: plan.version },
      { onSuccess: (saved) => notify(`The plan is version ${saved.version} now. Run the match to see its effect.`) },
    );
  return (
    <section aria-label="The plan" className="flex min-h-0 flex-col gap-2 p-4">
      <div className="flex items-baseline justify-between">
        <h2 className="font-semibold">
          Version {plan.version}
          {latest && (
            <span className="ml-2 text-sm font-normal text-soft">
              by {latest.actor}, {moment(latest.at)}
              {latest.note && `: ${latest.note}`}
            </span>
          )}
        </h2>
        <span className="text-sm text-soft">{changed ? "not saved" : ""}</span>
      </div>
      <textarea
        aria-label="Match plan as YAML"
        spellCheck={false}
        value={yaml}
        onChange={(event) => setYaml(event.target.value)}
        className="min-h-0 flex-1 resize-none rounded-[3px] border border-line-strong bg-sheet p-3 font-mono text-xs leading-5 whitespace-pre"
      />
      <PairEstimate slug={slug} yaml={yaml} />
      {(save.error ?? trial.error) && <Trouble error={(save.error ?? trial.error) as Error} />}
      {changed && (
        <div className="flex items-end gap-2">
          <div className="flex-1">
            <TextField
              label="What changes and why"
              value={note}
              onChange={(event) => setNote(event.target.value)}
              maxLength={400}
            />
          </div>
          <Button
            disabled={trial.isPending}
            onClick={() =>
              trial.mutate(
                { title: note, yaml },
                { onSuccess: () => notify("The trial is under way; it will stand beside the standing run.") },
              )
            }
          >
            Try it
          </Button>
          <Button onClick={() => setYaml(plan.yaml)}>Back to version {plan.version}</Button>
          <Button look="main" disabled={save.isPending} onClick={submit}>
            Save as version {plan.version + 1}
          </Button>
        </div>
      )}
    </section>
  );
}

import { useSearchParams } from "react-router";
import { moment } from "../../../domain/format";
import { Button, Choice, notify } from "../../../ui";
import { type Plan, type Run, useClearRun } from "../queries";
import { RunView } from "./RunView";

const named = (run: Run) =>
  `${run.purpose === "trial" ? `Trial ${run.title}`.trim() : "The standing run"}, ${moment(run.at)}`;

/** The run that is chosen, of the standing one and the trials beside it. */
export function RunsPane({ slug, runs, plan }: { slug: string; runs: readonly Run[]; plan: Plan }) {
  const [params, setParams] = useSearchParams();
  const clear = useClearRun(slug);
  const asked = Number(params.get("run"));
  const shown =
    runs.find(({ id }) => id === asked) ?? runs.find(({ purpose }) => purpose === "standing") ?? (runs[0] as Run);
  const show = (id: string) => setParams({ run: id });
  return (
    <>
      {(runs.length > 1 || shown.purpose === "trial") && (
        <div className="flex items-center gap-2 pt-3">
          <Choice
            label="Run"
            value={`${shown.id}`}
            options={runs.map((run) => ({ value: `${run.id}`, label: named(run) }))}
            onChange={show}
            className="min-w-72"
          />
          {shown.purpose === "trial" && (
            <Button
              needs="run"
              disabled={clear.isPending}
              onClick={() =>
                clear.mutate(shown.id, {
                  onSuccess: () => setParams({}),
                  onError: (error) => notify(error, true),
                })
              }
            >
              Clear this trial away
            </Button>
          )}
        </div>
      )}
      <RunView key={shown.id} run={shown} plan={plan} />
    </>
  );
}

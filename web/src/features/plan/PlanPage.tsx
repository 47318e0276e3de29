import { useParams } from "react-router";
import { useRegister } from "../../api/registers";
import { Button, Empty, Faces, notify, Page, Pane } from "../../ui";
import { PlanEditor } from "./PlanEditor";
import { usePlan, useRuns, useStartRun } from "./queries";
import { RunsPane } from "./RunsPane";

/** The plan on the left, what the standing run or a trial made of it on the right. */
export function PlanPage() {
  const { slug = "" } = useParams();
  const register = useRegister(slug);
  const plan = usePlan(slug);
  const runs = useRuns(slug);
  const start = useStartRun(slug);
  const due = register?.run_due ?? [];
  return (
    <Page
      title="Plan"
      about={due.length > 0 ? `A run is due: ${due.join("; ")}.` : "The latest run shows the present state."}
      actions={
        <Button
          look="main"
          disabled={start.isPending || !register?.counts.records}
          onClick={() => start.mutate(undefined, { onError: (error) => notify(error.message, true) })}
        >
          Run the match
        </Button>
      }
    >
      <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)]">
        <Faces query={plan}>{(data) => <PlanEditor key={`${slug} ${data.version}`} slug={slug} plan={data} />}</Faces>
        <Pane label="Runs" className="border-l border-line px-4 pb-4">
          <Faces query={runs}>
            {(data) =>
              data.length > 0 && plan.data ? (
                <RunsPane slug={slug} runs={data} plan={plan.data} />
              ) : (
                <Empty title="Nothing was matched yet.">
                  <p>Run the match to see which pairs the plan finds, and where the doubt lies.</p>
                </Empty>
              )
            }
          </Faces>
        </Pane>
      </div>
    </Page>
  );
}

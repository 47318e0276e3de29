import { useParams } from "react-router";
import { useRegister } from "../../api/registers";
import { Button, Faces, notify, Page } from "../../ui";
import { useDrafts } from "./draft/queries";
import { PlanBench } from "./PlanBench";
import { usePlan, useStartRun } from "./queries";

/** The plan bench: the plan on the left, what it does on the right. */
export function PlanPage() {
  const { slug = "" } = useParams();
  const register = useRegister(slug);
  const plan = usePlan(slug);
  const drafts = useDrafts(slug);
  const start = useStartRun(slug);
  const due = register?.run_due ?? [];
  return (
    <Page
      title="Plan"
      about={due.length > 0 ? `A run is due: ${due.join("; ")}.` : "The latest run shows the present state."}
      actions={
        <Button
          needs="run"
          look="main"
          disabled={start.isPending || !register?.counts.records}
          onClick={() => start.mutate(undefined, { onError: (error) => notify(error, true) })}
        >
          Run the match
        </Button>
      }
    >
      <Faces query={plan}>
        {(data) => (
          <Faces query={drafts}>
            {(known) => (
              <PlanBench key={slug} slug={slug} plan={data} drafts={known} records={register?.counts.records ?? 0} />
            )}
          </Faces>
        )}
      </Faces>
    </Page>
  );
}

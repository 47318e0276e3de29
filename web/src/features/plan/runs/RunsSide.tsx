import { Empty, Faces, Pane } from "../../../ui";
import { type Plan, useRuns } from "../queries";
import { RunsPane } from "./RunsPane";

/** What the standing run and the trials found. */
export function RunsSide({ slug, plan }: { slug: string; plan: Plan }) {
  const runs = useRuns(slug);
  return (
    <Pane label="Runs" className="h-full px-4 pb-4">
      <Faces query={runs}>
        {(data) =>
          data.length > 0 ? (
            <RunsPane slug={slug} runs={data} plan={plan} />
          ) : (
            <Empty title="Nothing was matched yet.">
              <p>Run the match to see which pairs the plan finds, and where the doubt lies.</p>
            </Empty>
          )
        }
      </Faces>
    </Pane>
  );
}

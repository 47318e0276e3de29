import { useState } from "react";
import { Button, Empty, Faces, notify, Pane } from "../../../ui";
import { type Plan, useRuns, useStartTrial } from "../queries";
import { RunsPane } from "./RunsPane";

interface Props {
  slug: string;
  plan: Plan;
  /** The plan on the bench, and whether it may be run. */
  yaml: string;
  valid: boolean;
}

/** What the standing run and the trials found, and the way to one more trial. */
export function RunsSide({ slug, plan, yaml, valid }: Props) {
  const runs = useRuns(slug);
  return (
    <Pane label="Runs" className="h-full px-4 pb-4">
      <TrialLine slug={slug} yaml={yaml} valid={valid} />
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

/** Keeps what the plan on the bench finds as a trial, beside the standing run, until it is cleared away. */
function TrialLine({ slug, yaml, valid }: Omit<Props, "plan">) {
  const [title, setTitle] = useState("");
  const start = useStartTrial(slug);
  return (
    <form
      className="flex items-center gap-2 pt-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        start.mutate(
          { title, yaml },
          {
            onSuccess: () => {
              setTitle("");
              notify("The trial is run in the background; it will stand among the runs here.");
            },
            onError: (error) => notify(error, true),
          },
        );
      }}
    >
      <input
        aria-label="Title of the trial"
        placeholder="title of a trial"
        maxLength={80}
        value={title}
        onChange={(event) => setTitle(event.target.value)}
        className="h-8 flex-1 rounded-[3px] border border-line-strong bg-sheet px-2 placeholder:text-soft"
      />
      <Button needs="run" type="submit" disabled={!valid || start.isPending}>
        Run the plan on the bench as a trial
      </Button>
    </form>
  );
}

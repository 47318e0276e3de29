import { useDeferredValue, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../../api/client";
import type { Job } from "../../../api/jobs";
import { useLayout } from "../../../api/registers";
import { count, counted } from "../../../domain/format";
import { type Steps, sameSteps, withField } from "../../../domain/tidySteps";
import { Button, Faces, notify, Page, Pane, Search, Trouble } from "../../../ui";
import { TidyNav } from "../TidyNav";
import { BeforeAfter } from "./BeforeAfter";
import { type TidySteps, useAskRecount, useSaveSteps, useTidySteps, useTriedSteps } from "./queries";
import { RecountDialog } from "./RecountDialog";
import { StepList } from "./StepList";

type Fields = readonly Schemas["FieldOut"][];

function FieldList({
  fields,
  steps,
  chosen,
  onChoose,
}: {
  fields: Fields;
  steps: Steps;
  chosen: string;
  onChoose: (name: string) => void;
}) {
  return (
    <ul className="py-2">
      {fields.map(({ name, label }) => (
        <li key={name}>
          <button
            type="button"
            aria-current={name === chosen}
            onClick={() => onChoose(name)}
            className="flex w-full items-baseline justify-between gap-2 px-4 py-1 text-left text-sm hover:bg-plum-wash aria-[current=true]:bg-plum-wash aria-[current=true]:font-semibold"
          >
            {label}
            <span className="text-xs text-soft">{steps[name] ? counted(steps[name].length, "step") : ""}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

function Bench({ slug, tidySteps, fields }: { slug: string; tidySteps: TidySteps; fields: Fields }) {
  const [params, setParams] = useSearchParams();
  const field = params.get("field") ?? fields[0]?.name ?? "";
  const [steps, setSteps] = useState<Steps>(tidySteps.steps);
  const [search, setSearch] = useState("");
  const [onlyChanged, setOnlyChanged] = useState(true);
  const [recount, setRecount] = useState<Job | null>(null);
  const own = steps[field] ?? [];
  const tried = useTriedSteps(
    slug,
    field,
    useDeferredValue(own),
    useDeferredValue(search),
    onlyChanged && own.length > 0,
  );
  const save = useSaveSteps(slug);
  const ask = useAskRecount(slug);
  const changed = !sameSteps(steps, tidySteps.steps);
  const trouble = (error: Error) => notify(error, true);
  return (
    <Page
      title="Tidy"
      about={<TidyNav />}
      actions={
        <>
          {changed && <Button onClick={() => setSteps(tidySteps.steps)}>Back to what is saved</Button>}
          <Button
            needs="run"
            disabled={!changed || ask.isPending}
            onClick={() => ask.mutate(steps, { onSuccess: setRecount, onError: trouble })}
          >
            Which verdicts would change?
          </Button>
          <Button
            needs="tidy"
            look="main"
            disabled={!changed || save.isPending || tried.isError}
            onClick={() =>
              save.mutate(
                { steps, seen_version: tidySteps.version },
                { onSuccess: () => notify("The steps are saved; all records are tidied again."), onError: trouble },
              )
            }
          >
            Save and tidy again
          </Button>
        </>
      }
    >
      <div className="grid h-full min-h-0 grid-cols-[13rem_26rem_1fr]">
        <Pane label="Fields" className="border-r border-line">
          <FieldList
            fields={fields}
            steps={steps}
            chosen={field}
            onChoose={(name) => setParams({ field: name }, { replace: true })}
          />
        </Pane>
        <Pane label="Steps" className="border-r border-line px-4 py-2">
          <StepList
            slug={slug}
            tidySteps={tidySteps}
            field={field}
            fields={fields}
            steps={own}
            changedByStep={tried.data?.changed_by_step}
            onChange={(become) => setSteps(withField(steps, field, become))}
          />
        </Pane>
        <Pane label="Before and after" className="px-4">
          <div className="flex flex-wrap items-center gap-3 py-2 text-sm">
            <Search label="Search values" value={search} onChange={setSearch} />
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-plum"
                checked={onlyChanged && own.length > 0}
                disabled={own.length === 0}
                onChange={(event) => setOnlyChanged(event.target.checked)}
              />
              only what changes
            </label>
            <span className="ml-auto text-soft">
              {tried.data && `${count(tried.data.changed)} of ${counted(tried.data.records, "record")} change`}
              {tried.data && !tried.data.complete && " (of the most frequent values)"}
            </span>
          </div>
          {tried.error ? (
            <Trouble error={tried.error} />
          ) : (
            <Faces query={tried}>{(data) => <BeforeAfter tried={data} />}</Faces>
          )}
        </Pane>
      </div>
      {recount && <RecountDialog slug={slug} asked={recount} onClose={() => setRecount(null)} />}
    </Page>
  );
}

/** The tidy steps of every field, with what they make of real values beside them. */
export function StepsPage() {
  const { slug = "" } = useParams();
  const tidySteps = useTidySteps(slug);
  const layout = useLayout(slug);
  return (
    <Faces query={tidySteps}>
      {(saved) => (
        <Faces query={layout}>
          {({ fields }) => <Bench key={`${slug} ${saved.version}`} slug={slug} tidySteps={saved} fields={fields} />}
        </Faces>
      )}
    </Faces>
  );
}

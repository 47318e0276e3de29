import { useState } from "react";
import { useParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { isActive, type Job, useJobs } from "../../../api/jobs";
import { type Register, useLayout, useRegister } from "../../../api/registers";
import { useSources } from "../../../api/sources";
import { Button, Choice, Faces, LinkButton, Loading, notify, Page, Pane, Trouble } from "../../../ui";
import { ChainEditor } from "./ChainEditor";
import { EarlierRules } from "./EarlierRules";
import { type Chain, type Draft, type Form, useChangeRules, useTried, useTryRules } from "./queries";
import { SetRulesDialog } from "./SetRulesDialog";
import { unitsOf } from "./StepEditor";
import { TriedRules } from "./TriedRules";

const FORMS: Record<Form, { label: string; says: string }> = {
  standard: {
    label: "in standard form",
    says: "Proper case, names in parts, numbers and dates in one shape, addresses as their country writes them.",
  },
  "as delivered": { label: "as delivered", says: "Letter for letter as the source that won wrote them." },
};
const WAYS = (Object.keys(FORMS) as Form[]).map((value) => ({ value, label: FORMS[value].label }));
const FRESHNESS = "updated_on";

function Editor({ slug, register, layout }: { slug: string; register: Register; layout: Schemas["LayoutOut"] }) {
  const [draft, setDraft] = useState<Draft>({ rules: {} });
  const [asked, setAsked] = useState<Job>();
  const [setting, setSetting] = useState(false);
  const sources = useSources(slug).data ?? [];
  const attempt = useTryRules(slug);
  const change = useChangeRules(slug);
  const job = useJobs().data?.jobs.find(({ id }) => id === asked?.id) ?? asked;
  const tried = useTried(slug, asked?.id ?? 0, job?.status === "done").data;
  const units = unitsOf(layout.fields);
  const written = draft.form ?? register.form;
  const touched = Object.keys(draft.rules).length > 0 || draft.form !== undefined;
  const edit = (next: Partial<Draft>) => {
    setDraft({ ...draft, ...next });
    // What was tried is no longer what would be set.
    setAsked(undefined);
  };
  const reset = () => {
    setDraft({ rules: {} });
    setAsked(undefined);
  };
  const applySet = (named: string) => {
    const chain: Chain = (layout.rule_sets[named] ?? []).map((by) => ({ by, field: "", sources: [], values: [] }));
    const all = units.filter(({ value }) => value !== FRESHNESS).map(({ value }) => [value, chain] as const);
    edit({ rules: Object.fromEntries(all) });
  };
  const set = () =>
    change.mutate(
      { ...draft, seen_version: register.version },
      {
        onSuccess: () => {
          notify("The golden records follow the new rules in the background.");
          reset();
          setSetting(false);
        },
      },
    );
  const within = { rules: layout.rules, fields: layout.fields, sources: sources.map(({ name }) => name) };
  return (
    <Page
      title="Survivorship rules"
      about="Which value makes up a golden record; ties go to the next rule, then to the more trusted source."
      actions={
        <>
          <LinkButton to={`/r/${slug}/golden`}>Golden records</LinkButton>
          <Button disabled={!touched} onClick={reset}>
            As they are
          </Button>
          <Button
            disabled={!touched || attempt.isPending || (job !== undefined && isActive(job))}
            onClick={() => attempt.mutate(draft, { onSuccess: setAsked })}
          >
            Try it
          </Button>
          <Button needs="rule" look="main" disabled={!touched} onClick={() => setSetting(true)}>
            Set the rules
          </Button>
        </>
      }
    >
      <div className="grid h-full min-h-0 grid-cols-[3fr_2fr]">
        <Pane label="Rules by field" className="px-4 py-2">
          <div className="flex flex-wrap items-center gap-2 border-b border-line-strong pb-2 text-sm">
            <span className="text-soft">All fields alike:</span>
            {Object.keys(layout.rule_sets).map((named) => (
              <Button key={named} onClick={() => applySet(named)}>
                {named}
              </Button>
            ))}
          </div>
          <table className="w-full text-sm">
            <tbody>
              {units.map(({ value, label, whole }) => (
                <tr key={value}>
                  <th
                    scope="row"
                    className="w-36 border-b border-line py-1.5 pr-3 text-left align-top font-medium leading-8"
                  >
                    {label}
                    {whole && <span className="text-soft text-xs font-normal"> as a whole</span>}
                  </th>
                  <td className={`border-b border-line py-1.5 ${value in draft.rules ? "bg-plum-wash" : ""}`}>
                    <ChainEditor
                      unit={value}
                      label={label}
                      chain={draft.rules[value] ?? register.rules[value] ?? []}
                      within={within}
                      onChange={(chain) => edit({ rules: { ...draft.rules, [value]: chain } })}
                    />
                  </td>
                </tr>
              ))}
              <tr>
                <th scope="row" className="py-2 pr-3 text-left align-top font-medium leading-8">
                  Values are written
                </th>
                <td className="py-2">
                  <Choice
                    label="Form of the values"
                    value={written}
                    options={WAYS}
                    onChange={(form) => edit({ form })}
                    className="w-44"
                  />
                  <span className="block pt-1 text-soft text-xs">{FORMS[written].says}</span>
                </td>
              </tr>
            </tbody>
          </table>
        </Pane>
        <Pane label="What it changes" className="border-l border-line bg-sunk px-4 py-3">
          <h2 className="text-sm font-semibold">What it would change</h2>
          {asked ? (
            <TriedRules slug={slug} asked={asked} />
          ) : (
            <p className="text-sm text-soft">
              {touched
                ? "Try it: nothing is changed by that."
                : "Change a rule or the form, and try it before it takes effect."}
            </p>
          )}
          {attempt.error && <Trouble error={attempt.error} />}
          <h2 className="mt-6 text-sm font-semibold">Earlier changes</h2>
          <EarlierRules slug={slug} version={register.version} />
        </Pane>
      </div>
      {setting && (
        <SetRulesDialog
          tried={tried}
          pending={change.isPending}
          error={change.error}
          onSet={set}
          onClose={() => setSetting(false)}
        />
      )}
    </Page>
  );
}

/** Which value survives, per field or group, and how it is written; tried before it takes effect. */
export function SurvivorshipPage() {
  const { slug = "" } = useParams();
  const layout = useLayout(slug);
  const register = useRegister(slug);
  if (!register) return <Loading />;
  return <Faces query={layout}>{(data) => <Editor slug={slug} register={register} layout={data} />}</Faces>;
}

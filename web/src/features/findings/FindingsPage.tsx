import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { useRegister } from "../../api/registers";
import { counted, moment } from "../../domain/format";
import { Button, Empty, Faces, MAIN_MENU, Menu, notify, Page, type Tab, Tabs } from "../../ui";
import { FindingsDesk } from "./FindingsDesk";
import { PlanDialog } from "./PlanDialog";
import { type FindingsPlan, STATES, type State, useFindingsPlan, useRunPlan } from "./queries";

/** What was left out because too many hold it. */
function leftOut(plan: FindingsPlan): string {
  const told = Object.entries(plan.common ?? {}).filter(([, pairs]) => pairs > 0);
  return told.map(([title, pairs]) => `${counted(pairs, "pair")} by ${title}`).join(", ");
}

function tabsOf(counts: Record<string, number>): Tab<State | "">[] {
  const all = Object.values(counts).reduce((sum, value) => sum + value, 0);
  return [
    { tab: "", label: "all", figure: all },
    ...STATES.map((one) => ({ tab: one, label: one, figure: counts[one] ?? 0 })),
  ];
}

/** The findings of a plan: by state, those that share the same thing together, the one in view beside them. */
export function FindingsPage() {
  const { slug = "", plan: name = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const [editing, setEditing] = useState(false);
  const plan = useFindingsPlan(slug, name);
  const own = useRegister(slug)?.name ?? slug;
  const run = useRunPlan(slug, name);
  const state = (params.get("state") ?? "") as State | "";
  const start = () =>
    run.mutate(undefined, {
      onSuccess: () => notify("The registers are being compared; the line below says how far it is."),
      onError: (error) => notify(error, true),
    });
  const report = `/api/registers/${slug}/findings/${encodeURIComponent(name)}/report`;
  const only = state ? `?only=${encodeURIComponent(state)}` : "";
  const print = `/r/${slug}/findings/${encodeURIComponent(name)}/report${state ? `?state=${encodeURIComponent(state)}` : ""}`;
  return (
    <Page
      title={name}
      about={
        plan.data &&
        `${own} against ${plan.data.other_name}${plan.data.ran_at ? `, run ${moment(plan.data.ran_at)}` : ", not run yet"}`
      }
      actions={
        <>
          <Button needs="pair up" onClick={() => setEditing(true)}>
            What is looked for…
          </Button>
          <Button needs="pair up" look={plan.data?.ran_at ? "plain" : "main"} disabled={run.isPending} onClick={start}>
            {plan.data?.ran_at ? "Run again" : "Run"}
          </Button>
          {plan.data?.ran_at && (
            <Menu
              entries={[
                { label: "As a page to print", to: print },
                { label: "As CSV", href: `${report}.csv${only}` },
                { label: "As XLSX", href: `${report}.xlsx${only}` },
              ]}
              className={MAIN_MENU}
            >
              Report ▾
            </Menu>
          )}
        </>
      }
    >
      <Faces query={plan}>
        {(data) =>
          data.counts ? (
            <div className="flex h-full min-h-0 flex-col">
              <div className="flex items-center border-b border-line px-4 pt-1">
                <Tabs
                  label="States"
                  tabs={tabsOf(data.counts)}
                  chosen={state}
                  onChoose={(one) => setParams(one ? { state: one } : {}, { replace: true })}
                />
                {leftOut(data) && (
                  <span className="ml-auto text-xs text-soft" title="A value that so many hold is nobody's own.">
                    Left out as held by more than {data.plan.most_holders}: {leftOut(data)}
                  </span>
                )}
              </div>
              <FindingsDesk slug={slug} plan={data} own={own} state={state} />
            </div>
          ) : (
            <Empty title="The registers were not compared yet.">
              <Button needs="pair up" look="main" onClick={start}>
                Run the plan
              </Button>
            </Empty>
          )
        }
      </Faces>
      {editing && plan.data && <PlanDialog slug={slug} plan={plan.data} onClose={() => setEditing(false)} />}
    </Page>
  );
}

import { useState } from "react";
import { Link, useParams } from "react-router";
import { count, moment } from "../../domain/format";
import { Button, CELL, Empty, Faces, Heads, Page, Pane } from "../../ui";
import { NewPlanDialog } from "./NewPlanDialog";
import { type FindingsPlan, STATES, usePlans } from "./queries";

/** Plans that hold this register against another one: who shares what they should not. */
export function PlansPage() {
  const { slug = "" } = useParams();
  const [making, setMaking] = useState(false);
  const plans = usePlans(slug);
  return (
    <Page
      title="Findings"
      about="What records of two registers share that they should not. It is told and decided, never merged."
      actions={
        <Button needs="pair up" look="main" onClick={() => setMaking(true)}>
          Hold against another register…
        </Button>
      }
    >
      <Pane label="Plans of findings" className="h-full px-4">
        <Faces query={plans}>
          {(data) =>
            data.length === 0 ? (
              <Empty title="This register is not held against another one yet.">
                <p>
                  Suppliers who live where an employee lives, payees with an employee's bank account: hold the two
                  registers against each other, and every thing they share is told with how rare it is.
                </p>
              </Empty>
            ) : (
              <table className="w-full text-sm">
                <thead>
                  <Heads titles={["Plan", "Held against", ...STATES, "Run"]} />
                </thead>
                <tbody>
                  {data.map((plan) => (
                    <PlanRow key={plan.name} slug={slug} plan={plan} />
                  ))}
                </tbody>
              </table>
            )
          }
        </Faces>
      </Pane>
      {making && <NewPlanDialog slug={slug} onClose={() => setMaking(false)} />}
    </Page>
  );
}

function PlanRow({ slug, plan }: { slug: string; plan: FindingsPlan }) {
  const to = `/r/${slug}/findings/${encodeURIComponent(plan.name)}`;
  return (
    <tr>
      <td className={CELL}>
        <Link to={to} className="font-medium text-plum hover:underline">
          {plan.name}
        </Link>
      </td>
      <td className={CELL}>{plan.other_name}</td>
      {STATES.map((state) => (
        <td key={state} className={`${CELL} font-mono`}>
          {plan.counts && (
            <Link to={`${to}?${new URLSearchParams({ state })}`} className="text-plum hover:underline">
              {count(plan.counts[state] ?? 0)}
            </Link>
          )}
        </td>
      ))}
      <td className={CELL}>{plan.ran_at ? moment(plan.ran_at) : "not yet"}</td>
    </tr>
  );
}

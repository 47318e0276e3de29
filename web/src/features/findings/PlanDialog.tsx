import { useState } from "react";
import { useNavigate } from "react-router";
import { Button, Modal, notify, Trouble } from "../../ui";
import { type FindingsPlan, useChangePlan, useForgetPlan } from "./queries";

/** What a plan looks for, as text; every problem is said at once. */
export function PlanDialog({ slug, plan, onClose }: { slug: string; plan: FindingsPlan; onClose: () => void }) {
  const [yaml, setYaml] = useState(plan.yaml);
  const [sure, setSure] = useState(false);
  const change = useChangePlan(slug, plan.name);
  const forget = useForgetPlan(slug, plan.name);
  const navigate = useNavigate();
  const save = () =>
    change.mutate(yaml, {
      onSuccess: () => {
        notify("The plan is changed. Run it again to see what it finds.");
        onClose();
      },
    });
  const remove = () => forget.mutate(undefined, { onSuccess: () => navigate(`/r/${slug}/findings`) });
  return (
    <Modal title="What is looked for" onClose={onClose} wide>
      <div className="space-y-3 text-sm">
        <p className="text-soft">
          Each thing names a field of either side and how the two are held against each other: phone, email, identifier,
          value, address, or family name and address. A value that more than most_holders of a side hold is nobody's
          own.
        </p>
        <textarea
          aria-label="Plan as YAML"
          spellCheck={false}
          value={yaml}
          onChange={(event) => setYaml(event.target.value)}
          className="h-80 w-full resize-none rounded-[3px] border border-line-strong bg-sheet p-3 font-mono text-xs leading-5"
        />
        {change.error && <Trouble error={change.error} />}
        <div className="flex gap-2">
          <Button onClick={() => (sure ? remove() : setSure(true))}>
            {sure ? "Yes, remove the plan and all that was said" : "Remove the plan…"}
          </Button>
          <Button className="ml-auto" onClick={onClose}>
            Leave
          </Button>
          <Button look="main" disabled={change.isPending || yaml === plan.yaml} onClick={save}>
            Change the plan
          </Button>
        </div>
      </div>
    </Modal>
  );
}

import { useState } from "react";
import { useRegisters } from "../../api/registers";
import { Button, Faces, Modal, Trouble } from "../../ui";
import { LevelsPart } from "./LevelsPart";
import { PolicyParts } from "./PolicyParts";
import { type Policy, usePolicy, useSetPolicy } from "./queries";

/** What needs a second yes in a register, and whose. */
export function PolicyDialog({ slug, onClose }: { slug: string; onClose: () => void }) {
  const name = useRegisters().data?.find((register) => register.slug === slug)?.name ?? slug;
  return (
    <Modal title={`What needs a second yes in ${name}`} wide onClose={onClose}>
      <Faces query={usePolicy(slug)} rows={6}>
        {(policy) => <Form slug={slug} policy={policy} onClose={onClose} />}
      </Faces>
    </Modal>
  );
}

function Form({ slug, policy, onClose }: { slug: string; policy: Policy; onClose: () => void }) {
  const set = useSetPolicy(slug);
  const [draft, setDraft] = useState(policy);
  const change = (part: Partial<Policy>) => setDraft({ ...draft, ...part });
  return (
    <form
      className="space-y-4"
      onSubmit={(event) => {
        event.preventDefault();
        const { version, approvers: _, ...asked } = draft;
        set.mutate({ ...asked, seen_version: version }, { onSuccess: onClose });
      }}
    >
      <p className="text-sm text-soft">
        What needs a second yes waits for it and changes nothing until then. What the machine does by a plan in force
        was signed off with the plan.
      </p>
      <PolicyParts slug={slug} policy={draft} onChange={change} />
      <LevelsPart policy={draft} onChange={(levels) => change({ levels })} />
      {set.error && <Trouble error={set.error} />}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button type="submit" look="main" needs="govern" disabled={set.isPending}>
          Set this
        </Button>
      </div>
    </form>
  );
}

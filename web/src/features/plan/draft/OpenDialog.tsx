import { moment } from "../../../domain/format";
import { Button, Faces, Modal, notify } from "../../../ui";
import type { Plan } from "../queries";
import { useDrafts, useProposal, useReadyMade, useVersion } from "./queries";
import type { OpenDraft } from "./useDraft";

interface Props {
  slug: string;
  plan: Plan;
  open: OpenDraft;
  onClose: () => void;
}

/** What can be laid on the bench: drafts, earlier versions, ready-made plans, one proposed from the data. */
export function OpenDialog({ slug, plan, open, onClose }: Props) {
  const drafts = useDrafts(slug);
  const ready = useReadyMade(slug, true);
  const version = useVersion(slug);
  const proposal = useProposal(slug);
  const failed = (error: Error) => notify(error, true);
  const lay = (yaml: string, title: string) => {
    open.open({ yaml, title, basedOn: plan.version, draft: null });
    onClose();
  };
  return (
    <Modal title="Lay a plan on the bench" wide onClose={onClose}>
      <div className="max-h-[60vh] space-y-4 overflow-auto text-sm" tabIndex={-1}>
        {drafts.data && drafts.data.length > 0 && (
          <List title="Drafts">
            {drafts.data.map((draft) => (
              <Row
                key={draft.id}
                name={draft.title}
                says={`${draft.changed_by}, ${moment(draft.changed_at)}, from version ${draft.based_on}`}
                onOpen={() => {
                  open.open({ yaml: draft.yaml, title: draft.title, basedOn: draft.based_on, draft });
                  onClose();
                }}
              />
            ))}
          </List>
        )}
        <List title="Made for this register">
          <Row
            name="Propose a plan from my data"
            says="the usual plan fitted to what the records hold, with a reason per line"
            onOpen={() =>
              proposal.mutate(undefined, {
                onSuccess: (found) => lay(found.yaml, "Proposed from the data"),
                onError: failed,
              })
            }
          />
        </List>
        <List title="Ready-made">
          <Faces query={ready} rows={3}>
            {(plans) =>
              plans.map((one) => (
                <Row key={one.name} name={one.name} says={one.about} onOpen={() => lay(one.yaml, one.name)} />
              ))
            }
          </Faces>
        </List>
        <List title="Versions">
          {plan.versions.map((one) => (
            <Row
              key={one.version}
              name={`Version ${one.version}${one.version === plan.version ? ", in force" : ""}`}
              says={`${one.actor}, ${moment(one.at)}${one.note ? `: ${one.note}` : ""}`}
              onOpen={() =>
                version.mutate(one.version, {
                  onSuccess: (found) => lay(found.yaml, `Version ${one.version} again`),
                  onError: failed,
                })
              }
            />
          ))}
        </List>
      </div>
      <div className="mt-3 flex justify-end">
        <Button onClick={onClose}>Leave</Button>
      </div>
    </Modal>
  );
}

function List({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title}>
      <h3 className="mb-1 text-xs font-semibold text-soft">{title}</h3>
      <ul className="border-t border-line">{children}</ul>
    </section>
  );
}

function Row({ name, says, onOpen }: { name: string; says: string; onOpen: () => void }) {
  return (
    <li className="border-b border-line">
      <button type="button" onClick={onOpen} className="w-full px-2 py-1 text-left hover:bg-plum-wash">
        <span className="font-medium">{name}</span> <span className="text-soft">{says}</span>
      </button>
    </li>
  );
}

import { useState } from "react";
import { moment } from "../../../domain/format";
import { Button, Modal, notify, TextField, Trouble } from "../../../ui";
import { type Plan, useSavePlan } from "../queries";
import { OpenDialog } from "./OpenDialog";
import { type Draft, useThrowAway } from "./queries";
import type { OpenDraft } from "./useDraft";

interface Props {
  slug: string;
  plan: Plan;
  drafts: readonly Draft[];
  open: OpenDraft;
  problems: number;
}

/** Which plan is on the bench and how it is kept; opening another, putting it in force, throwing it away. */
export function DraftBar({ slug, plan, drafts, open, problems }: Props) {
  const [dialog, setDialog] = useState<"" | "open" | "force">("");
  const throwAway = useThrowAway(slug);
  const inForce = open.yaml === plan.yaml;
  const latest = plan.versions[0];
  const newest = [...drafts].sort((one, other) => other.changed_at.localeCompare(one.changed_at))[0];
  const back = () => open.open({ yaml: plan.yaml, title: "", basedOn: plan.version, draft: null, inForce: true });
  const discard = () => {
    if (open.draft) throwAway.mutate(open.draft.id, { onError: (error) => notify(error, true) });
    back();
  };
  return (
    <div className="border-b border-line px-4 py-1.5 text-sm">
      <div className="flex flex-wrap items-center gap-2">
        <span className="min-w-0 flex-1 truncate">
          {inForce && !open.draft ? (
            <>
              <b>Version {plan.version}, in force</b>
              {latest && (
                <span className="text-soft">
                  {" "}
                  by {latest.actor}, {moment(latest.at)}
                  {latest.note && `: ${latest.note}`}
                </span>
              )}
            </>
          ) : (
            <>
              <b>{open.title || "Draft"}</b>{" "}
              <span className="text-soft">
                from version {open.basedOn}
                {open.state === "keeping" ? ", being kept…" : open.state === "kept" ? ", kept" : ""}
                {problems > 0 && `, ${problems} to mend`}
              </span>
            </>
          )}
        </span>
        {!open.draft && inForce && newest && (
          <Button
            title={`${newest.changed_by}, ${moment(newest.changed_at)}`}
            onClick={() =>
              open.open({ yaml: newest.yaml, title: newest.title, basedOn: newest.based_on, draft: newest })
            }
          >
            Go on with “{newest.title}”
          </Button>
        )}
        <Button onClick={() => setDialog("open")}>Open…</Button>
        {(open.draft || !inForce) && (
          <Button needs="try" onClick={discard}>
            Throw away
          </Button>
        )}
        {!inForce && (
          <Button needs="plan" look="main" disabled={problems > 0} onClick={() => setDialog("force")}>
            Put in force…
          </Button>
        )}
      </div>
      {(open.state === "taken" || open.state === "failed") && (
        <div role="alert" className="mt-1 flex flex-wrap items-center gap-2 border-l-[3px] border-rust pl-2">
          {open.trouble}
          <Button onClick={open.keepAsAnother}>Keep mine as another draft</Button>
        </div>
      )}
      {dialog === "open" && <OpenDialog slug={slug} plan={plan} open={open} onClose={() => setDialog("")} />}
      {dialog === "force" && (
        <ForceDialog
          slug={slug}
          plan={plan}
          open={open}
          onClose={() => setDialog("")}
          onDone={() => {
            setDialog("");
            if (open.draft) throwAway.mutate(open.draft.id);
          }}
        />
      )}
    </div>
  );
}

interface ForceProps {
  slug: string;
  plan: Plan;
  open: OpenDraft;
  onClose: () => void;
  onDone: () => void;
}

function ForceDialog({ slug, plan, open, onClose, onDone }: ForceProps) {
  const [note, setNote] = useState("");
  const save = useSavePlan(slug);
  const submit = () =>
    save.mutate(
      { yaml: open.yaml, note, seen_version: plan.version },
      {
        onSuccess: (saved) => {
          notify(`Version ${saved.version} is in force now. Run the match for its effect.`);
          open.open({ yaml: saved.yaml, title: "", basedOn: saved.version, draft: null, inForce: true });
          onDone();
        },
      },
    );
  return (
    <Modal title={`Put in force as version ${plan.version + 1}`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          submit();
        }}
      >
        <p className="text-sm">
          The next run follows it. Version {plan.version} stays among the earlier ones, and can be put in force again.
        </p>
        <TextField
          label="What changes and why"
          value={note}
          maxLength={400}
          autoFocus
          onChange={(event) => setNote(event.target.value)}
        />
        {save.error && <Trouble error={save.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button needs="plan" type="submit" look="main" disabled={save.isPending}>
            Put in force
          </Button>
        </div>
      </form>
    </Modal>
  );
}

import { useState } from "react";
import { counted } from "../../domain/format";
import { Button, Modal, notify, TextField, Trouble } from "../../ui";
import { type Golden, useSplit } from "./queries";

interface Props {
  slug: string;
  golden: Golden;
  chosen: number[];
  onDone: () => void;
  onClose: () => void;
}

/** Take records out into a golden record of their own. */
export function SplitDialog({ slug, golden, chosen, onDone, onClose }: Props) {
  const [reason, setReason] = useState("");
  const split = useSplit(slug, golden.key);
  const out = golden.members.filter((member) => chosen.includes(member.id));
  const submit = () =>
    split.mutate(
      { record_ids: chosen, reason, seen_version: golden.version },
      {
        onSuccess: ({ key }) => {
          notify(`${counted(chosen.length, "record")} went into ${key}.`);
          onDone();
        },
      },
    );
  return (
    <Modal title={`Take ${counted(chosen.length, "record")} out of ${golden.key}`} onClose={onClose}>
      <p className="text-sm">
        {out.map((member) => `${member.source} ${member.source_key}`).join(", ")} will get a golden record of its own
        with a new key. Later runs keep them apart. The step can be undone.
      </p>
      <div className="mt-3">
        <TextField
          label="Reason"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          maxLength={4000}
          autoFocus
        />
      </div>
      {split.error && <Trouble error={split.error} />}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave</Button>
        <Button
          look="main"
          disabled={split.isPending}
          onClick={submit}
        >{`Take ${counted(chosen.length, "record")} out`}</Button>
      </div>
    </Modal>
  );
}

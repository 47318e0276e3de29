import { type FormEvent, useState } from "react";
import { Button, LinkButton, Modal, notify, TextField, Trouble } from "../../../ui";
import { usePinValue } from "./queries";

interface Props {
  slug: string;
  goldenKey: string | undefined;
  field: string;
  label: string;
  value: string;
  onClose: () => void;
}

/** Let a record's value win in its golden record, whatever the rules say; with the reason. */
export function ChooseValueDialog({ slug, goldenKey = "", field, label, value, onClose }: Props) {
  const [reason, setReason] = useState("");
  const pin = usePinValue(slug, goldenKey);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    pin.mutate(
      { field, value, reason },
      {
        onSuccess: () => {
          notify(`${label} of ${goldenKey} is pinned to “${value}”.`);
          onClose();
        },
      },
    );
  };
  if (!goldenKey)
    return (
      <Modal title={`${label}: ${value}`} onClose={onClose}>
        <p className="text-sm">
          This record has no golden record yet. Once it is merged, this value can be pinned there.
        </p>
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <LinkButton look="main" to={`/r/${slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </div>
      </Modal>
    );
  return (
    <Modal title={`Pin ${label} of ${goldenKey}`} onClose={onClose}>
      <form onSubmit={submit} className="space-y-3">
        <p className="text-sm">
          <span className="font-semibold">{value || "empty"}</span> then stands in the golden record until the pin is
          lifted.
        </p>
        <TextField
          label="Reason"
          value={reason}
          maxLength={4000}
          autoFocus
          onChange={(event) => setReason(event.target.value)}
        />
        {pin.error && <Trouble error={pin.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button type="submit" look="main" disabled={!reason.trim() || pin.isPending}>
            Pin it
          </Button>
        </div>
      </form>
    </Modal>
  );
}

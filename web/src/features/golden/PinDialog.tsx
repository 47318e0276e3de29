import { type FormEvent, useState } from "react";
import { Button, Modal, notify, TextField, Trouble } from "../../ui";
import { type Golden, usePin } from "./queries";

interface Props {
  slug: string;
  golden: Golden;
  field: string;
  label: string;
  onClose: () => void;
}

/** Set a value by hand, with the reason; the records' own values are one click away. */
export function PinDialog({ slug, golden, field, label, onClose }: Props) {
  const [value, setValue] = useState(golden.values[field] ?? "");
  const [reason, setReason] = useState("");
  const pin = usePin(slug, golden.key);
  const delivered = [...new Set(golden.members.map((member) => member.fields[field]).filter(Boolean))] as string[];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    pin.mutate(
      { field, value, reason, seen_version: golden.version },
      {
        onSuccess: () => {
          notify(`${label} of ${golden.key} is pinned.`);
          onClose();
        },
      },
    );
  };
  return (
    <Modal title={`Pin ${label} of ${golden.key}`} onClose={onClose}>
      <form onSubmit={submit} className="space-y-3">
        <TextField
          label="Value"
          value={value}
          onChange={(event) => setValue(event.target.value)}
          maxLength={4000}
          autoFocus
        />
        {delivered.length > 0 && (
          <div className="flex flex-wrap gap-1.5" role="group" aria-label="Delivered values">
            {delivered.map((text) => (
              <Button key={text} small onClick={() => setValue(text)}>
                {text}
              </Button>
            ))}
          </div>
        )}
        <TextField
          label="Reason"
          hint="Kept with the pin, so that others understand it in a year."
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          maxLength={4000}
          required
        />
        {pin.error && <Trouble error={pin.error} />}
        <div className="flex justify-end gap-2 pt-1">
          <Button onClick={onClose}>Leave</Button>
          <Button type="submit" look="main" disabled={!reason.trim() || pin.isPending}>
            Pin this value
          </Button>
        </div>
      </form>
    </Modal>
  );
}

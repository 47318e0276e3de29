import { type FormEvent, useState } from "react";
import { Button, Modal, TextArea, TextField } from "../../../ui";
import { usePeople } from "../queries";

export interface LaterAsked {
  until: string | null;
  asked: string;
  remark: string;
}

const tomorrow = () => new Date(Date.now() + 86_400_000).toISOString().slice(0, 10);

/** Put a doubt off until a day, ask somebody by name, or both. */
export function LaterDialog({
  slug,
  onSay,
  onClose,
}: {
  slug: string;
  onSay: (asked: LaterAsked) => void;
  onClose: () => void;
}) {
  const people = usePeople(slug).data ?? [];
  const [until, setUntil] = useState("");
  const [asked, setAsked] = useState("");
  const [remark, setRemark] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onSay({ until: until || null, asked: asked.trim(), remark });
  };
  return (
    <Modal title="Decide later" onClose={onClose}>
      <form onSubmit={submit} className="space-y-3">
        <TextField
          label="Comes back on"
          type="date"
          min={tomorrow()}
          value={until}
          hint="Left empty, it stays put off until somebody takes it up."
          onChange={(event) => setUntil(event.target.value)}
        />
        <TextField
          label="Ask"
          list="people-at-the-desk"
          value={asked}
          maxLength={80}
          hint="A name; they find it under What waits for you."
          onChange={(event) => setAsked(event.target.value)}
        />
        <datalist id="people-at-the-desk">
          {people.map((name) => (
            <option key={name} value={name} />
          ))}
        </datalist>
        <TextArea
          label="Remark"
          rows={3}
          maxLength={4000}
          value={remark}
          onChange={(event) => setRemark(event.target.value)}
        />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button type="submit" look="main">
            {asked.trim() ? `Ask ${asked.trim()}` : until ? `Put off until ${until}` : "Put off"}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

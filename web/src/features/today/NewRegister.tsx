import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { type RegisterKind, useMakeRegister } from "../../api/registers";
import { Button, Choice, Modal, TextField, Trouble } from "../../ui";

const KINDS = [
  { value: "organisation", label: "organisations" },
  { value: "person", label: "people" },
] as const;

export function NewRegister({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState("");
  const [kind, setKind] = useState<RegisterKind>("organisation");
  const make = useMakeRegister();
  const navigate = useNavigate();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    make.mutate({ name, kind }, { onSuccess: (register) => navigate(`/r/${register.slug}/bring-in`) });
  };
  return (
    <Modal title="Make a register" onClose={onClose}>
      <form onSubmit={submit} className="space-y-3">
        <TextField
          label="Name"
          value={name}
          onChange={(event) => setName(event.target.value)}
          required
          maxLength={80}
          autoFocus
        />
        <div>
          <p className="mb-0.5 text-sm font-medium">Its records stand for</p>
          <Choice label="Kind" value={kind} options={KINDS} onChange={setKind} className="w-48" />
        </div>
        {make.error && <Trouble error={make.error} />}
        <div className="flex justify-end gap-2 pt-2">
          <Button onClick={onClose}>Leave</Button>
          <Button type="submit" look="main" disabled={!name.trim() || make.isPending}>
            Make register
          </Button>
        </div>
      </form>
    </Modal>
  );
}

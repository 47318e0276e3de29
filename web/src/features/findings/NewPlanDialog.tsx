import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { useRegisters } from "../../api/registers";
import { Button, Choice, Modal, TextField, Trouble } from "../../ui";
import { useMakePlan } from "./queries";

/** A plan begins with all that both registers have; what it looks for can be changed. */
export function NewPlanDialog({ slug, onClose }: { slug: string; onClose: () => void }) {
  const registers = (useRegisters().data ?? []).filter((register) => register.slug !== slug);
  const [other, setOther] = useState("");
  const [name, setName] = useState("");
  const make = useMakePlan(slug);
  const navigate = useNavigate();
  const choose = (chosen: string) => {
    setOther(chosen);
    if (!name) setName(`Against ${registers.find((register) => register.slug === chosen)?.name ?? chosen}`);
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    make.mutate(
      { name: name.trim(), other, yaml: "" },
      {
        onSuccess: (made) => {
          onClose();
          navigate(`/r/${slug}/findings/${encodeURIComponent(made.name)}`);
        },
      },
    );
  };
  return (
    <Modal title="Hold against another register" onClose={onClose}>
      <form onSubmit={submit} className="space-y-3">
        <div className="text-sm">
          <p className="mb-1 font-medium">Register</p>
          <Choice
            label="The other register"
            value={other}
            options={registers.map((register) => ({ value: register.slug, label: register.name }))}
            onChange={choose}
            className="w-full"
          />
        </div>
        <TextField
          label="Name of the plan"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
        {make.error && <Trouble error={make.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button type="submit" look="main" disabled={!other || !name.trim() || make.isPending}>
            Make the plan
          </Button>
        </div>
      </form>
    </Modal>
  );
}

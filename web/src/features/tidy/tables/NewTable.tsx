import { type FormEvent, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button, Choice, Modal, TextField, Trouble } from "../../../ui";
import { useMakeTable } from "./queries";

const KINDS = [
  { value: "swap list", label: "swap list: whole words within a value" },
  { value: "value map", label: "value map: whole values" },
] as const;

interface Props {
  slug: string;
  readyMade: readonly string[];
  onMade: (name: string) => void;
  onClose: () => void;
}

/** Make a table, empty or from a ready-made one that can then be changed. */
export function NewTable({ slug, readyMade, onMade, onClose }: Props) {
  const [name, setName] = useState("");
  const [kind, setKind] = useState<Schemas["TableKind"]>("swap list");
  const [ready, setReady] = useState("");
  const make = useMakeTable(slug);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    make.mutate({ name: name || ready, kind, ready, entries: [] }, { onSuccess: (made) => onMade(made.name) });
  };
  return (
    <Modal title="Make a swap list or value map" onClose={onClose}>
      <form onSubmit={submit} className="space-y-3 text-sm">
        <div className="flex items-center gap-2">
          <span className="w-24">Starts from</span>
          <Choice
            label="Starts from"
            value={ready}
            options={[{ value: "", label: "nothing" }, ...readyMade.map((value) => ({ value, label: value }))]}
            onChange={setReady}
            className="flex-1"
          />
        </div>
        {!ready && (
          <div className="flex items-center gap-2">
            <span className="w-24">Is a</span>
            <Choice label="Is a" value={kind} options={KINDS} onChange={setKind} className="flex-1" />
          </div>
        )}
        <TextField
          label="Name"
          value={name}
          placeholder={ready}
          maxLength={60}
          onChange={(event) => setName(event.target.value)}
        />
        {make.error && <Trouble error={make.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button look="main" type="submit" disabled={!(name.trim() || ready) || make.isPending}>
            Make it
          </Button>
        </div>
      </form>
    </Modal>
  );
}

import { useState } from "react";
import { useRegisters } from "../../api/registers";
import { Button, Modal, TextField, Trouble } from "../../ui";
import { LinkShown } from "./LinkShown";
import { type Person, type RoleGiven, useAddPerson, useChangePerson } from "./queries";
import { RolesGrid } from "./RolesGrid";

/** Add a person; the link for them is shown once. */
export function AddPersonDialog({ onClose }: { onClose: () => void }) {
  const registers = useRegisters().data ?? [];
  const add = useAddPerson();
  const [values, setValues] = useState({ name: "", sign_in: "", email: "" });
  const [roles, setRoles] = useState<RoleGiven[]>([]);
  const set = (field: keyof typeof values) => (event: { target: { value: string } }) =>
    setValues({ ...values, [field]: event.target.value });
  if (add.data) return <LinkShown name={values.name} link={add.data.link} onClose={onClose} />;
  return (
    <Modal title="Add a person" wide onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate({ ...values, roles });
        }}
      >
        <div className="grid grid-cols-3 gap-3">
          <TextField
            label="Name"
            hint="Stands in the journal, for ever."
            value={values.name}
            maxLength={80}
            onChange={set("name")}
          />
          <TextField label="Name to sign in with" value={values.sign_in} maxLength={80} onChange={set("sign_in")} />
          <TextField label="E-mail, if any" type="email" value={values.email} maxLength={200} onChange={set("email")} />
        </div>
        <RolesGrid registers={registers} given={roles} onChange={setRoles} />
        {add.error && <Trouble error={add.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            type="submit"
            look="main"
            disabled={add.isPending || values.name.trim() === "" || values.sign_in.trim() === ""}
          >
            Add, and get a link for them
          </Button>
        </div>
      </form>
    </Modal>
  );
}

/** Give a person other roles. */
export function RolesDialog({ person, onClose }: { person: Person; onClose: () => void }) {
  const registers = useRegisters().data ?? [];
  const change = useChangePerson(person);
  const [roles, setRoles] = useState(person.roles);
  return (
    <Modal title={`Roles of ${person.name}`} wide onClose={onClose}>
      <div className="space-y-3">
        <RolesGrid registers={registers} given={roles} onChange={setRoles} />
        {change.error && <Trouble error={change.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave them</Button>
          <Button look="main" disabled={change.isPending} onClick={() => change.mutate(roles, { onSuccess: onClose })}>
            Give these roles
          </Button>
        </div>
      </div>
    </Modal>
  );
}

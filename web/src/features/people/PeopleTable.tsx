import { useState } from "react";
import { moment } from "../../domain/format";
import { rolesInWords } from "../../domain/people";
import { Button, CELL, Heads, Modal, notify, Trouble } from "../../ui";
import { LinkShown } from "./LinkShown";
import { RolesDialog } from "./PersonDialog";
import { type Person, useEndPerson, useResetPerson, useSignOutPerson } from "./queries";

type Open = { person: Person; what: "roles" | "link" | "end" };

function howSignedIn(person: Person): string {
  if (person.ended_at) return `ended ${moment(person.ended_at)}`;
  if (person.demo) return "of the demo, without a password";
  if (person.by_provider) return "by the identity provider";
  return person.has_password ? "by a password" : "has not signed in by a password yet";
}

export function PeopleTable({ people }: { people: readonly Person[] }) {
  const [open, setOpen] = useState<Open>();
  const close = () => setOpen(undefined);
  return (
    <>
      <table className="w-full text-sm">
        <thead>
          <Heads titles={["Name", "Signs in as", "Is", "How", ""]} unseen="Change" />
        </thead>
        <tbody>
          {people.map((person) => (
            <Row key={person.id} person={person} onOpen={(what) => setOpen({ person, what })} />
          ))}
        </tbody>
      </table>
      {open?.what === "roles" && <RolesDialog person={open.person} onClose={close} />}
      {open?.what === "link" && <LinkDialog person={open.person} onClose={close} />}
      {open?.what === "end" && <EndDialog person={open.person} onClose={close} />}
    </>
  );
}

function Row({ person, onOpen }: { person: Person; onOpen: (what: Open["what"]) => void }) {
  const signOut = useSignOutPerson();
  const words = rolesInWords(person.roles);
  return (
    <tr className={person.ended_at ? "text-soft" : ""}>
      <th scope="row" className={`${CELL} text-left font-medium`}>
        {person.name}
      </th>
      <td className={CELL}>{person.sign_in}</td>
      <td className={CELL}>{person.ended_at ? "" : words.length ? words.join("; ") : "without a role"}</td>
      <td className={CELL}>{howSignedIn(person)}</td>
      <td className={`${CELL} text-right whitespace-nowrap`}>
        {!person.ended_at && (
          <>
            <Button look="quiet" small onClick={() => onOpen("roles")}>
              Roles…
            </Button>
            <Button look="quiet" small onClick={() => onOpen("link")}>
              New link…
            </Button>
            <Button
              look="quiet"
              small
              disabled={signOut.isPending}
              onClick={() =>
                signOut.mutate(person, {
                  onSuccess: () => notify(`${person.name} is signed out everywhere.`),
                  onError: (error) => notify(error, true),
                })
              }
            >
              Sign out
            </Button>
            <Button look="quiet" small onClick={() => onOpen("end")}>
              End…
            </Button>
          </>
        )}
      </td>
    </tr>
  );
}

function LinkDialog({ person, onClose }: { person: Person; onClose: () => void }) {
  const reset = useResetPerson();
  if (reset.data) return <LinkShown name={person.name} link={reset.data.link} onClose={onClose} />;
  return (
    <Modal title={`A new password for ${person.name}`} onClose={onClose}>
      <p className="text-sm">
        The present password is forgotten, and {person.name} is signed out everywhere. You get a link by which they
        choose a new one.
      </p>
      {reset.error && <Trouble error={reset.error} />}
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="main" disabled={reset.isPending} onClick={() => reset.mutate(person)}>
          Forget it, and get a link
        </Button>
      </div>
    </Modal>
  );
}

function EndDialog({ person, onClose }: { person: Person; onClose: () => void }) {
  const end = useEndPerson();
  return (
    <Modal title={`End the account of ${person.name}?`} onClose={onClose}>
      <p className="text-sm">
        {person.name} is signed out everywhere at once, and their tokens end. What they did stays, under their name,
        which nobody else gets. What they put off, or were asked, waits for everybody again.
      </p>
      {end.error && <Trouble error={end.error} />}
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="main" disabled={end.isPending} onClick={() => end.mutate(person, { onSuccess: onClose })}>
          End the account
        </Button>
      </div>
    </Modal>
  );
}

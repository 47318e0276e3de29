import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { callMe, useMyName } from "../api/me";
import { useSignOut, useWho, type Who } from "../api/who";
import { Button, Menu, Modal, TextField } from "../ui";

/** Who works here: where people sign in, what is theirs to do with their account; else a name that can be given. */
export function WhoAmI() {
  const who = useWho().data;
  return who?.signs_in ? <OwnMenu who={who} /> : <GivenName />;
}

function OwnMenu({ who }: { who: Who }) {
  const signOut = useSignOut();
  const entries = [
    { label: "Your account", hint: "where you are signed in, tokens, password", to: "/account" },
    { label: "Who may do what", hint: "roles and what they are there for", to: "/rights" },
    ...(who.everywhere.includes("govern")
      ? [{ label: "People", hint: "accounts and their roles", to: "/people" }]
      : []),
    { label: "Sign out", run: () => signOut.mutate() },
  ];
  return (
    <Menu entries={entries} className="rounded-[3px] px-2.5 text-sm font-medium text-plum hover:bg-plum-wash">
      {who.name} ▾
    </Menu>
  );
}

function GivenName() {
  const name = useMyName();
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button
        look="quiet"
        onClick={() => setOpen(true)}
        aria-label={`${name ? `You work as ${name}` : "You gave no name"}; change the name`}
      >
        {name || "Your name"}
      </Button>
      {open && <NameDialog present={name} onClose={() => setOpen(false)} />}
    </>
  );
}

function NameDialog({ present, onClose }: { present: string; onClose: () => void }) {
  const [name, setName] = useState(present);
  const queries = useQueryClient();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    callMe(name);
    void queries.invalidateQueries();
    onClose();
  };
  return (
    <Modal title="Who works in this browser?" onClose={onClose}>
      <form onSubmit={submit} className="space-y-3">
        <TextField
          label="Name"
          hint="Decisions are kept under it, and others can ask you by it. Left empty, it is the name this server was started with."
          value={name}
          maxLength={80}
          autoFocus
          onChange={(event) => setName(event.target.value)}
        />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button type="submit" look="main">
            Work as {name.trim() || "the server's name"}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

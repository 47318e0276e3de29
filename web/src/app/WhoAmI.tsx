import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { callMe, useMyName } from "../api/me";
import { Button, Modal, TextField } from "../ui";

/** Under which name what is done here is kept; pressed, it is changed. */
export function WhoAmI() {
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

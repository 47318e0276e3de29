import { useState } from "react";
import { moment } from "../../domain/format";
import { fares, heard } from "../../domain/told";
import { Button, CELL, Empty, Heads, Modal, notify, TextField, Trouble } from "../../ui";
import { type Receiver, useRemoveReceiver, useSwitchReceiver, useTellAgain } from "./queries";

/** The addresses that are told, and how each fares. */
export function ReceiverTable({ slug, receivers }: { slug: string; receivers: readonly Receiver[] }) {
  const [again, setAgain] = useState<Receiver>();
  if (receivers.length === 0)
    return (
      <Empty title="Nobody is told yet.">
        <p>Other programs can read what happened at any time; an address that you enter is told by itself.</p>
      </Empty>
    );
  return (
    <>
      <table className="w-full text-sm">
        <thead>
          <Heads titles={["Address", "Hears of", "How it fares", "Last told", ""]} unseen="Change" />
        </thead>
        <tbody>
          {receivers.map((receiver) => (
            <Row key={receiver.id} slug={slug} receiver={receiver} onAgain={() => setAgain(receiver)} />
          ))}
        </tbody>
      </table>
      {again && <AgainDialog slug={slug} receiver={again} onClose={() => setAgain(undefined)} />}
    </>
  );
}

function Row({ slug, receiver, onAgain }: { slug: string; receiver: Receiver; onAgain: () => void }) {
  const change = useSwitchReceiver(slug);
  const remove = useRemoveReceiver(slug);
  const busy = change.isPending || remove.isPending;
  const told = { onError: (error: Error) => notify(error, true) };
  return (
    <tr>
      <td className={`${CELL} font-medium break-all`}>{receiver.address}</td>
      <td className={CELL}>{heard(receiver.kinds)}</td>
      <td className={`${CELL} ${receiver.on && receiver.failures > 0 ? "text-rust" : ""}`}>
        {fares(receiver)}
        {receiver.on && receiver.failures > 0 && (
          <span className="text-soft">. Next try {moment(receiver.next_at)}</span>
        )}
      </td>
      <td className={`${CELL} whitespace-nowrap`}>{receiver.told_at ? moment(receiver.told_at) : "never"}</td>
      <td className={`${CELL} text-right whitespace-nowrap`}>
        <Button needs="automate" look="quiet" small disabled={busy} onClick={() => change.mutate(receiver, told)}>
          {receiver.on ? "Pause" : "Go on"}
        </Button>
        <Button needs="automate" look="quiet" small disabled={busy} onClick={onAgain}>
          Tell again…
        </Button>
        <Button needs="automate" look="quiet" small disabled={busy} onClick={() => remove.mutate(receiver.id, told)}>
          Remove
        </Button>
      </td>
    </tr>
  );
}

function AgainDialog({ slug, receiver, onClose }: { slug: string; receiver: Receiver; onClose: () => void }) {
  const again = useTellAgain(slug);
  const [since, setSince] = useState("");
  return (
    <Modal title={`Tell ${receiver.address} again`} onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          again.mutate({ id: receiver.id, since: new Date(since).toISOString() }, { onSuccess: onClose });
        }}
      >
        <TextField
          label="Everything that happened since"
          type="datetime-local"
          value={since}
          onChange={(event) => setSince(event.target.value)}
        />
        <p className="text-sm text-soft">Events keep their ids, so that a receiver can tell which it knows already.</p>
        {again.error && <Trouble error={again.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" look="main" disabled={again.isPending || since === ""}>
            Tell it again
          </Button>
        </div>
      </form>
    </Modal>
  );
}

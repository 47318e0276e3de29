import { useState } from "react";
import { EVENT_KINDS, EVENTS } from "../../domain/told";
import { Button, Modal, TextField, Trouble } from "../../ui";
import { type Kind, useAddReceiver } from "./queries";

/** A web address to be told; its secret is shown once. */
export function AddReceiver({ slug, onClose }: { slug: string; onClose: () => void }) {
  const add = useAddReceiver(slug);
  const [address, setAddress] = useState("");
  const [kinds, setKinds] = useState<readonly Kind[]>(EVENT_KINDS);
  if (add.data) return <Secret secret={add.data.secret} address={add.data.receiver.address} onClose={onClose} />;
  return (
    <Modal title="Tell a web address" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate({ address: address.trim(), kinds: kinds.length === EVENT_KINDS.length ? [] : [...kinds] });
        }}
      >
        <TextField
          label="Address"
          placeholder="https://"
          value={address}
          maxLength={2000}
          onChange={(event) => setAddress(event.target.value)}
        />
        <fieldset>
          <legend className="mb-1 text-sm font-medium">It is told when</legend>
          {EVENT_KINDS.map((kind) => (
            <label key={kind} className="flex min-h-6 items-center gap-2 text-sm">
              <input
                type="checkbox"
                className="accent-plum"
                checked={kinds.includes(kind)}
                onChange={(event) =>
                  setKinds(event.target.checked ? [...kinds, kind] : kinds.filter((own) => own !== kind))
                }
              />
              {EVENTS[kind]}
            </label>
          ))}
        </fieldset>
        {add.error && <Trouble error={add.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" look="main" disabled={add.isPending || address.trim() === "" || kinds.length === 0}>
            Tell it from now on
          </Button>
        </div>
      </form>
    </Modal>
  );
}

function Secret({ secret, address, onClose }: { secret: string; address: string; onClose: () => void }) {
  return (
    <Modal title="The secret of this receiver" onClose={onClose}>
      <p className="text-sm">
        What {address} is told is signed with this secret, so that it can know that it comes from here. It is shown this
        once.
      </p>
      <p className="my-3 rounded-[3px] bg-sunk p-2 font-mono text-sm break-all select-all">{secret}</p>
      <div className="flex justify-end">
        <Button look="main" onClick={onClose}>
          It is noted
        </Button>
      </div>
    </Modal>
  );
}

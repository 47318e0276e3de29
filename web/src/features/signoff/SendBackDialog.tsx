import { useState } from "react";
import { Button, Modal, TextArea, Trouble } from "../../ui";
import { type Proposal, useSendBack } from "./queries";

/** Send a proposal back with a reason: to whoever made it, or to everybody. */
export function SendBackDialog({ slug, proposal, onClose }: { slug: string; proposal: Proposal; onClose: () => void }) {
  const sendBack = useSendBack(slug);
  const [reason, setReason] = useState("");
  const send = (to_all: boolean) => sendBack.mutate({ proposal, reason, to_all }, { onSuccess: onClose });
  return (
    <Modal title="Send back" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (reason.trim()) send(false);
        }}
      >
        <p className="text-sm text-soft">{proposal.summary}</p>
        <TextArea
          label="Reason"
          rows={3}
          value={reason}
          maxLength={4000}
          autoFocus
          onChange={(event) => setReason(event.target.value)}
        />
        {sendBack.error && <Trouble error={sendBack.error} />}
        <div className="flex flex-wrap justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button disabled={!reason.trim() || sendBack.isPending} onClick={() => send(true)}>
            Let anybody take it up
          </Button>
          <Button type="submit" look="main" disabled={!reason.trim() || sendBack.isPending}>
            {`Back to ${proposal.proposed_by}`}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

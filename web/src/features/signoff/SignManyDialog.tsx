import { useState } from "react";
import { counted } from "../../domain/format";
import { Button, Faces, Modal, notify, TextField, Trouble } from "../../ui";
import { useMany, useSignMany, type Wanted } from "./queries";

/** Sign all proposals of a filter in one step: counted, some of them drawn at random, exactly those that were seen. */
export function SignManyDialog({ slug, wanted, onClose }: { slug: string; wanted: Wanted; onClose: () => void }) {
  const many = useMany(slug, wanted);
  const sign = useSignMany(slug);
  const [remark, setRemark] = useState("");
  const signAll = (seen: string) =>
    sign.mutate(
      { which: wanted, seen, remark },
      {
        onSuccess: ({ carried_out, waiting, overtaken }) => {
          if (overtaken.length > 0) return;
          notify(`${counted(carried_out, "proposal")} carried out, ${waiting} wait for a further yes.`);
          onClose();
        },
      },
    );
  return (
    <Modal title="Sign all of these" wide onClose={onClose}>
      <Faces query={many} rows={4}>
        {({ count, not_yours, sample, seen }) => (
          <div className="space-y-3">
            <p>
              {`${counted(count, "proposal")} that you may sign.`}
              {not_yours > 0 && <span className="text-soft">{` ${not_yours} more are not yours to sign.`}</span>}
            </p>
            <p className="text-sm font-medium">
              {sample.length === count ? "All of them" : `${sample.length} drawn at random`}
            </p>
            <ul className="max-h-64 overflow-auto border border-line" tabIndex={0} aria-label="Drawn at random">
              {sample.map((proposal) => (
                <li key={proposal.id} className="border-b border-line px-2 py-0.5 text-sm">
                  {proposal.summary}
                  <span className="text-soft">{` · ${proposal.proposed_by}`}</span>
                </li>
              ))}
            </ul>
            <TextField
              label="Remark, if any"
              value={remark}
              maxLength={4000}
              onChange={(event) => setRemark(event.target.value)}
            />
            {sign.error && <Trouble error={sign.error} onRetry={() => void many.refetch()} />}
            {sign.data && sign.data.overtaken.length > 0 && (
              <div role="status" className="text-sm">
                <p>{`${sign.data.carried_out} carried out; ${sign.data.overtaken.length} could not be:`}</p>
                <ul className="list-disc pl-5">
                  {sign.data.overtaken.map((told) => (
                    <li key={told}>{told}</li>
                  ))}
                </ul>
              </div>
            )}
            <div className="flex justify-end gap-2">
              <Button onClick={onClose}>{sign.data ? "Close" : "Leave them"}</Button>
              <Button look="main" disabled={count === 0 || sign.isPending || !!sign.data} onClick={() => signAll(seen)}>
                {`Sign ${counted(count, "proposal")}`}
              </Button>
            </div>
          </div>
        )}
      </Faces>
    </Modal>
  );
}

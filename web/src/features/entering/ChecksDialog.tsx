import { useState } from "react";
import { useLayout } from "../../api/registers";
import { type Part, plainPart, typedFields } from "../../domain/entering";
import { count, counted } from "../../domain/format";
import { Button, Faces, Modal, notify, Trouble } from "../../ui";
import { CheckParts } from "./CheckParts";
import { type Check, useChecks, usePutCheck, useRemoveCheck, useTryCheck } from "./queries";
import { ReferenceForm } from "./ReferenceForm";

/** Which agreement warns whoever is about to enter a record, or forbids another one; tried on real records first. */
export function ChecksDialog({ slug, onClose }: { slug: string; onClose: () => void }) {
  return (
    <Modal title="Checks before a record is entered" onClose={onClose} wide>
      <Faces query={useChecks(slug)} rows={2}>
        {(checks) => <InForce slug={slug} checks={checks} />}
      </Faces>
      <NewCheck slug={slug} />
      <ReferenceForm slug={slug} />
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Modal>
  );
}

function InForce({ slug, checks }: { slug: string; checks: readonly Check[] }) {
  const remove = useRemoveCheck(slug);
  if (checks.length === 0) return <p className="text-sm text-soft">No check is in force yet.</p>;
  return (
    <ul aria-label="Checks in force" className="divide-y divide-line text-sm">
      {checks.map((check) => (
        <li key={check.id} className="flex items-center gap-3 py-1">
          <b className={`w-16 font-semibold ${check.forbids ? "text-rust" : ""}`}>
            {check.forbids ? "forbids" : "warns"}
          </b>
          {check.says}
          <button
            type="button"
            aria-label={`Take out of force: ${check.says}`}
            className="ml-auto min-h-6 font-medium text-plum hover:underline"
            onClick={() => remove.mutate(check.id, { onError: (error) => notify(error, true) })}
          >
            Take out of force
          </button>
        </li>
      ))}
    </ul>
  );
}

const FIRST: Part = { how: "same", field: "phone", letters: 5 };

function NewCheck({ slug }: { slug: string }) {
  const [parts, setParts] = useState<readonly Part[]>([FIRST]);
  const tried = useTryCheck(slug);
  const put = usePutCheck(slug);
  const fields = typedFields(useLayout(slug).data?.fields ?? []);
  const chosen = parts.map(plainPart);
  const wrong = put.error ?? tried.error;
  return (
    <section aria-label="A new check" className="mt-4 border-t border-line pt-3">
      <h2 className="mb-2 text-sm font-semibold">A new check: a record that is there has</h2>
      <CheckParts
        parts={parts}
        fields={fields}
        onChange={(changed) => {
          setParts(changed);
          tried.reset();
          put.reset();
        }}
      />
      <div className="mt-3 flex items-center gap-2">
        <Button disabled={tried.isPending} onClick={() => tried.mutate(chosen)}>
          Try it
        </Button>
        <Button needs="automate" disabled={put.isPending} onClick={() => put.mutate({ parts: chosen, forbids: false })}>
          Let it warn
        </Button>
        <Button needs="automate" disabled={put.isPending} onClick={() => put.mutate({ parts: chosen, forbids: true })}>
          Let it forbid
        </Button>
      </div>
      {tried.data && (
        <p role="status" className="mt-2 text-sm">
          In the last 30 days it would have told <b className="font-semibold">{count(tried.data.told)} times</b>, of{" "}
          {counted(tried.data.records, "record")} that came in
          {tried.data.examples.length > 0 && ": "}
          <span className="text-soft">
            {tried.data.examples
              .map((one) => `${one.source} ${one.source_key} beside ${one.there_source} ${one.there_source_key}`)
              .join("; ")}
          </span>
        </p>
      )}
      {wrong && (
        <div className="mt-2">
          <Trouble error={wrong} />
        </div>
      )}
    </section>
  );
}

import { useState } from "react";
import { count, counted, moment } from "../../../domain/format";
import { Button, CELL, Faces, HEAD, Modal, notify, Trouble } from "../../../ui";
import { type RecordFilter, useCorrect, useCorrections, useUndoCorrection, useValues } from "./queries";

const BOX = "h-7 w-full rounded-[3px] border border-line-strong bg-sheet px-2 text-sm";

function Line({
  slug,
  filter,
  value,
  records,
}: {
  slug: string;
  filter: RecordFilter;
  value: string;
  records: number;
}) {
  const [become, setBecome] = useState(value);
  const correct = useCorrect(slug);
  return (
    <tr>
      <td className={`${CELL} font-mono text-xs leading-5 break-words`}>
        {value || <span className="text-soft">(empty)</span>}
      </td>
      <td className={CELL}>
        <input
          aria-label={`Instead of ${value || "nothing"}`}
          value={become}
          onChange={(event) => setBecome(event.target.value)}
          className={BOX}
        />
        {correct.error && <Trouble error={correct.error} />}
      </td>
      <td className={`${CELL} text-right whitespace-nowrap`}>
        <Button
          small
          disabled={become.trim() === value || correct.isPending}
          onClick={() =>
            correct.mutate(
              { ...filter, was: value, value: become },
              {
                onSuccess: (batch) =>
                  notify(`${counted(batch.records, "record")} changed; below the step can be undone.`),
              },
            )
          }
        >
          Change {counted(records, "record")}
        </Button>
      </td>
    </tr>
  );
}

function Steps({ slug, field }: { slug: string; field: string }) {
  const steps = useCorrections(slug);
  const undo = useUndoCorrection(slug);
  const own = (steps.data ?? []).filter((step) => step.field === field);
  if (own.length === 0) return null;
  return (
    <section aria-label="What was changed" className="mt-4 text-sm">
      <h3 className="font-semibold">What was changed</h3>
      <ul className="max-h-40 overflow-auto">
        {own.map((step) => (
          <li key={step.batch} className="flex items-baseline gap-3 border-b border-line py-1">
            <span className="min-w-0 flex-1 break-words">
              {step.was || "(empty)"} → {step.value || "(empty)"}
            </span>
            <span className="text-soft">
              {count(step.records)} by {step.actor}, {moment(step.at)}
            </span>
            <Button
              look="quiet"
              small
              className="px-0"
              aria-label={`Undo ${step.was || "empty"} to ${step.value || "empty"}`}
              disabled={undo.isPending}
              onClick={() => undo.mutate(step.batch, { onError: (error) => notify(error, true) })}
            >
              Undo
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

interface Props {
  slug: string;
  filter: RecordFilter;
  label: string;
  onClose: () => void;
}

/** The values of a field among the records in sight: each can be changed in all records that hold it, and back. */
export function CorrectValuesDialog({ slug, filter, label, onClose }: Props) {
  const held = useValues(slug, filter);
  return (
    <Modal title={`Correct values: ${label}`} wide onClose={onClose}>
      <p className="mb-2 text-sm text-soft">
        What was delivered stays; a change stands until it is undone, or until the source delivers another value.
      </p>
      <Faces query={held} rows={4}>
        {(values) => (
          <div className="max-h-[40vh] overflow-auto" tabIndex={0} role="region" aria-label="Values to be corrected">
            <table className="w-full table-fixed text-sm">
              <thead>
                <tr>
                  <th scope="col" className={HEAD}>
                    Value
                  </th>
                  <th scope="col" className={HEAD}>
                    Becomes
                  </th>
                  <th scope="col" className={`${HEAD} w-44`}>
                    <span className="sr-only">Change</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {values.map(({ value, records }) => (
                  <Line key={value} slug={slug} filter={filter} value={value} records={records} />
                ))}
              </tbody>
            </table>
            {values.length === 0 && <p className="py-3 text-sm">No record is left to correct.</p>}
          </div>
        )}
      </Faces>
      <Steps slug={slug} field={filter.field} />
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Modal>
  );
}

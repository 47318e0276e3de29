import { useState } from "react";
import { ProblemError } from "../../api/client";
import { moment } from "../../domain/format";
import { Button, Modal, notify } from "../../ui";
import { type Golden, useLiftPin, useUndo } from "./queries";

type Step = Golden["history"][number];

/** The history as a line that can be walked back, newest step first. */
export function History({ slug, golden }: { slug: string; golden: Golden }) {
  const undo = useUndo(slug);
  const lift = useLiftPin(slug, golden.key);
  const [resting, setResting] = useState<{ step: Step; message: string } | null>(null);
  const trouble = (error: Error) => notify(error, true);
  const done = () => notify("Undone. Records that parted company are kept apart by later runs.");
  const refused = (step: Step, error: Error) =>
    error instanceof ProblemError && error.status === 409 && error.message.startsWith("Later steps")
      ? setResting({ step, message: error.message })
      : trouble(error);
  return (
    <>
      <h2 className="text-sm font-semibold">History</h2>
      <ol className="mt-1 border-l-2 border-line-strong pl-3 text-sm">
        {golden.pins.map((pin) => (
          <li key={`pin-${pin.id}`} className="flex flex-wrap items-center gap-x-3">
            <span>{`Pin in force: ${pin.field} = “${pin.value}” instead of “${pin.instead_of}”`}</span>
            <Button
              needs="correct"
              look="quiet"
              small
              disabled={lift.isPending}
              onClick={() => lift.mutate({ pinId: pin.id, seenVersion: golden.version }, { onError: trouble })}
            >
              Lift this pin
            </Button>
          </li>
        ))}
        {golden.history.map((step) => (
          <li key={`${step.id} ${step.part}`} className="flex flex-wrap items-center gap-x-3 py-0.5">
            <span className="whitespace-nowrap text-soft">{moment(step.at)}</span>
            <span className={step.undone ? "text-soft line-through" : ""}>{step.summary}</span>
            <span className="text-soft">{step.actor}</span>
            {step.undoable && (
              <Button
                needs="decide"
                look="quiet"
                small
                disabled={undo.isPending}
                onClick={() => undo.mutate(step, { onSuccess: done, onError: (error) => refused(step, error) })}
              >
                Undo this step
              </Button>
            )}
          </li>
        ))}
      </ol>
      {resting && (
        <Modal title="Later steps rest on this one" onClose={() => setResting(null)}>
          <p className="text-sm">{resting.message}</p>
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={() => setResting(null)}>Leave all as it is</Button>
            <Button
              look="main"
              disabled={undo.isPending}
              onClick={() =>
                undo.mutate(
                  { ...resting.step, withLater: true },
                  { onSuccess: done, onError: trouble, onSettled: () => setResting(null) },
                )
              }
            >
              Undo this step and the later ones
            </Button>
          </div>
        </Modal>
      )}
    </>
  );
}

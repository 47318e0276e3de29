import { moment } from "../../domain/format";
import { Button, notify } from "../../ui";
import { type Golden, useLiftPin, useUndo } from "./queries";

/** The history as a line that can be walked back, newest step first. */
export function History({ slug, golden }: { slug: string; golden: Golden }) {
  const undo = useUndo(slug);
  const lift = useLiftPin(slug, golden.key);
  const trouble = (error: Error) => notify(error.message, true);
  return (
    <>
      <h2 className="text-sm font-semibold">History</h2>
      <ol className="mt-1 border-l-2 border-line-strong pl-3 text-sm">
        {golden.pins.map((pin) => (
          <li key={`pin-${pin.id}`} className="flex items-center gap-3">
            <span>{`Pin in force: ${pin.field} = “${pin.value}” instead of “${pin.instead_of}”`}</span>
            <Button
              look="quiet"
              className="h-6"
              disabled={lift.isPending}
              onClick={() => lift.mutate({ pinId: pin.id, seenVersion: golden.version }, { onError: trouble })}
            >
              Lift this pin
            </Button>
          </li>
        ))}
        {golden.history.map((entry) => (
          <li key={entry.id} className="flex items-center gap-3 py-0.5">
            <span className="whitespace-nowrap text-soft">{moment(entry.at)}</span>
            <span className={entry.undone ? "text-soft line-through" : ""}>{entry.summary}</span>
            <span className="text-soft">{entry.actor}</span>
            {entry.undoable && (
              <Button
                look="quiet"
                className="h-6"
                disabled={undo.isPending}
                onClick={() =>
                  undo.mutate(entry.id, {
                    onSuccess: () => notify("Undone. Records that parted company are kept apart by later runs."),
                    onError: trouble,
                  })
                }
              >
                Undo this step
              </Button>
            )}
          </li>
        ))}
      </ol>
    </>
  );
}

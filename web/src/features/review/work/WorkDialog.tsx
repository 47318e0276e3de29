import { useWork } from "../../../api/work";
import { Faces, Heads, Modal } from "../../../ui";
import { useProgress } from "../queries";
import type { QueueState } from "../queueState";
import { GiveForm } from "./GiveForm";
import { PieceLine } from "./PieceLine";

/** Whose the doubts are: what is given, how far it is, and giving more. */
export function WorkDialog({
  slug,
  state,
  onLook,
  onClose,
}: {
  slug: string;
  state: QueueState;
  onLook: (work: string) => void;
  onClose: () => void;
}) {
  const me = useProgress(slug).data?.actor ?? "";
  return (
    <Modal title="Whose the doubts are" wide onClose={onClose}>
      <div className="space-y-4">
        <Faces query={useWork(slug)} rows={3}>
          {(pieces) =>
            pieces.length === 0 ? (
              <p className="text-sm text-soft">Nothing is given to anybody: every doubt is in the common pool.</p>
            ) : (
              <div className="max-h-72 overflow-auto" tabIndex={0} role="region" aria-label="What is given">
                <table className="w-full text-sm">
                  <thead>
                    <Heads titles={["To", "What", "Waiting", "Done", "Until", ""]} unseen="What can be done" />
                  </thead>
                  <tbody>
                    {pieces.map((piece) => (
                      <PieceLine key={piece.id} slug={slug} piece={piece} onOpen={() => onLook(`${piece.id}`)} />
                    ))}
                  </tbody>
                </table>
              </div>
            )
          }
        </Faces>
        <GiveForm slug={slug} state={state} me={me} />
      </div>
    </Modal>
  );
}

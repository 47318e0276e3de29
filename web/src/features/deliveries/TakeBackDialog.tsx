import { counted } from "../../domain/format";
import { Button, Faces, Modal, notify } from "../../ui";
import { type Delivery, useTakeBack, useTakeBackPreview } from "./queries";

/** Says what taking a delivery back will do before it is done. */
export function TakeBackDialog({ slug, delivery, onClose }: { slug: string; delivery: Delivery; onClose: () => void }) {
  const preview = useTakeBackPreview(slug, delivery.id);
  const change = useTakeBack(slug, delivery.id);
  return (
    <Modal title={`Take back ${delivery.file_name}?`} onClose={onClose}>
      <Faces query={preview} rows={3}>
        {({ withdrawn, restored, staying, golden }) => (
          <ul className="list-disc space-y-1 pl-5 text-sm">
            <li>{counted(withdrawn, "record")} that only this delivery brought will leave the register.</li>
            <li>{counted(restored, "record")} will be again what an earlier delivery said.</li>
            <li>{counted(staying, "record")} will stay as other deliveries say.</li>
            <li>{counted(golden, "golden record")} will lose records.</li>
          </ul>
        )}
      </Faces>
      <p className="mt-3 text-sm text-soft">The file is kept: the delivery can be put back at any time.</p>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button
          look="main"
          disabled={!preview.data || change.isPending}
          onClick={() => change.mutate("take-back", { onSuccess: onClose, onError: (error) => notify(error, true) })}
        >
          Take this delivery back
        </Button>
      </div>
    </Modal>
  );
}

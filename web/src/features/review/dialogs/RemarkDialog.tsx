import { useState } from "react";
import { Button, Modal, TextArea } from "../../../ui";
import type { Verdict } from "../queries";

/** A verdict with a remark that stays with the decision. */
export function RemarkDialog({
  onSay,
  onClose,
}: {
  onSay: (verdict: Verdict, remark: string) => void;
  onClose: () => void;
}) {
  const [remark, setRemark] = useState("");
  return (
    <Modal title="Decide with a remark" onClose={onClose}>
      <TextArea
        label="Remark"
        rows={4}
        maxLength={4000}
        autoFocus
        value={remark}
        onChange={(event) => setRemark(event.target.value)}
      />
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={onClose}>Leave</Button>
        <Button onClick={() => onSay("later", remark)}>Later</Button>
        <Button look="main" onClick={() => onSay("different", remark)}>
          Different
        </Button>
        <Button look="main" onClick={() => onSay("same", remark)}>
          Same
        </Button>
      </div>
    </Modal>
  );
}

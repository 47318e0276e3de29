import { useState } from "react";
import { count, counted, share } from "../../../domain/format";
import { Button, Modal, TextField, Trouble } from "../../../ui";

interface Props {
  tried: { golden: number; changed: number } | undefined;
  pending: boolean;
  error: Error | null;
  onSet: () => void;
  onClose: () => void;
}

const MANY = 1000;
const MUCH = 0.1;

/** Confirms rules; where they change much, or nobody knows how much, by typing it. */
export function SetRulesDialog({ tried, pending, error, onSet, onClose }: Props) {
  const [typed, setTyped] = useState("");
  const large = !tried || tried.changed > MANY || tried.changed > MUCH * tried.golden;
  const word = tried ? String(tried.changed) : "untried";
  return (
    <Modal title="Set the survivorship rules" onClose={onClose}>
      <p className="text-sm">
        {tried
          ? `The values of ${counted(tried.changed, "golden record")} will change (${share(tried.changed, tried.golden)}).`
          : "Nobody has tried yet what these rules would change."}{" "}
        They follow in the background; the step can be taken back.
      </p>
      {large && (
        <div className="mt-3">
          <TextField
            label={tried ? `Type ${count(tried.changed)} to go on` : "Type “untried” to go on all the same"}
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            autoFocus
          />
        </div>
      )}
      {error && <Trouble error={error} />}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave</Button>
        <Button look="main" disabled={pending || (large && typed.replace(/\s/g, "") !== word)} onClick={onSet}>
          Set the rules
        </Button>
      </div>
    </Modal>
  );
}

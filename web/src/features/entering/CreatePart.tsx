import { useState } from "react";
import { Button, TextField } from "../../ui";

interface Props {
  /** Somebody may be there already: creating one all the same needs a reason. */
  doubtful: boolean;
  forbidden: boolean;
  busy: boolean;
  onCreate: (reason: string) => void;
  onLeave: () => void;
}

/** Create one: at once where nobody is there, with a reason where somebody may be, not at all where a check forbids it. */
export function CreatePart({ doubtful, forbidden, busy, onCreate, onLeave }: Props) {
  const [reason, setReason] = useState("");
  if (forbidden)
    return (
      <p className="text-sm">
        A check forbids another one: use or add to the one that is there, or{" "}
        <button type="button" className="text-plum underline" onClick={onLeave}>
          leave it
        </button>
        .
      </p>
    );
  return (
    <form
      aria-label="Create"
      className="flex items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        onCreate(reason.trim());
      }}
    >
      {doubtful && (
        <div className="w-80">
          <TextField
            label="Why it is another one"
            value={reason}
            maxLength={1000}
            onChange={(event) => setReason(event.target.value)}
          />
        </div>
      )}
      <Button
        needs="enter"
        type="submit"
        look={doubtful ? "plain" : "main"}
        disabled={busy || (doubtful && reason.trim() === "")}
      >
        {doubtful ? "Create all the same" : "Create"}
      </Button>
      <Button look="quiet" onClick={onLeave}>
        Leave it
      </Button>
    </form>
  );
}

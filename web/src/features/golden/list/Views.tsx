import { useState } from "react";
import { Link } from "react-router";
import { Button, Faces, Modal, notify, TextField, Trouble } from "../../../ui";
import { stateOf, useForgetView, useSaveView, useViews } from "./queries";
import { type ListQuery, writeQuery } from "./query";

/** Views under a name: each has an address of its own that can be sent to others. */
export function ViewsDialog({ slug, query, onClose }: { slug: string; query: ListQuery; onClose: () => void }) {
  const [name, setName] = useState("");
  const views = useViews(slug);
  const save = useSaveView(slug);
  const forget = useForgetView(slug);
  const onSuccess = () => {
    notify(`The view “${name.trim()}” is saved.`);
    onClose();
  };
  return (
    <Modal title="Views of the list" onClose={onClose}>
      <Faces query={views}>
        {(saved) =>
          saved.length === 0 ? (
            <p className="text-sm text-soft">A view keeps filters, order and columns under a name, for everyone.</p>
          ) : (
            <ul className="max-h-[40vh] overflow-auto text-sm">
              {saved.map((view) => (
                <li key={view.name} className="flex items-center gap-2 border-b border-line">
                  <Link
                    className="min-w-0 flex-1 truncate text-plum underline"
                    to={`/r/${slug}/golden?${writeQuery(stateOf(view))}`}
                    onClick={onClose}
                  >
                    {view.name}
                  </Link>
                  <span className="text-soft text-xs">{view.actor}</span>
                  <Button
                    look="quiet"
                    aria-label={`Remove the view ${view.name}`}
                    onClick={() => forget.mutate(view.name)}
                  >
                    ×
                  </Button>
                </li>
              ))}
            </ul>
          )
        }
      </Faces>
      <form
        className="mt-3 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate({ name: name.trim(), query }, { onSuccess });
        }}
      >
        <div className="flex-1">
          <TextField
            label="Save what is shown now as"
            value={name}
            maxLength={80}
            onChange={(event) => setName(event.target.value)}
          />
        </div>
        <Button needs="keep" look="main" type="submit" disabled={name.trim() === "" || save.isPending}>
          Save
        </Button>
        <Button onClick={onClose}>Close</Button>
      </form>
      {(save.error ?? forget.error) && <Trouble error={(save.error ?? forget.error) as Error} />}
    </Modal>
  );
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link } from "react-router";
import { client, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { Button, Modal, TextField, Trouble } from "../../../ui";
import { type QueueState, USUAL, writeState } from "../queueState";

function useQueueViews(slug: string) {
  const queries = useQueryClient();
  const key = keys.of(slug, "queue-views");
  const refresh = () => queries.invalidateQueries({ queryKey: key });
  const views = useQuery({
    queryKey: key,
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/queue-views", { params: { path: { slug } } })),
  });
  const save = useMutation({
    mutationFn: ({ name, state }: { name: string; state: QueueState }) =>
      unwrap(client.PUT("/api/registers/{slug}/queue-views/{name}", { params: { path: { slug, name } }, body: state })),
    onSuccess: refresh,
  });
  const forget = useMutation({
    mutationFn: (name: string) =>
      unwrap(client.DELETE("/api/registers/{slug}/queue-views/{name}", { params: { path: { slug, name } } })),
    onSuccess: refresh,
  });
  return { views: views.data ?? [], save, forget };
}

/** Views of the queue kept under a name, each with an address of its own. */
export function QueueViews({ slug, state, onClose }: { slug: string; state: QueueState; onClose: () => void }) {
  const { views, save, forget } = useQueueViews(slug);
  const [name, setName] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save.mutate({ name: name.trim(), state }, { onSuccess: () => setName("") });
  };
  return (
    <Modal title="Views of the queue" onClose={onClose}>
      <ul className="text-sm">
        {views.map((view) => (
          <li key={view.name} className="flex items-center justify-between border-b border-line py-1">
            <Link
              className="text-plum hover:underline"
              to={`/r/${slug}/review?${writeState({ ...USUAL, ...view.content })}`}
              onClick={onClose}
            >
              {view.name}
            </Link>
            <Button look="quiet" aria-label={`Remove ${view.name}`} onClick={() => forget.mutate(view.name)}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      {views.length === 0 && (
        <p className="text-sm text-soft">None is kept yet. A view keeps filters and order under a name.</p>
      )}
      <form onSubmit={submit} className="mt-3 flex items-end gap-2">
        <TextField
          label="Keep this view as"
          value={name}
          maxLength={80}
          autoFocus
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit" look="main" disabled={!name.trim() || save.isPending}>
          Keep
        </Button>
      </form>
      {save.error && <Trouble error={save.error} />}
    </Modal>
  );
}

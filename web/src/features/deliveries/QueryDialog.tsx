import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { Button, CELL, HEAD, Modal, TextArea, TextField, Trouble } from "../../ui";
import { useBringInQuery, useTryQuery } from "./queries";

function FirstRows({ columns, rows }: { columns: readonly string[]; rows: readonly (readonly string[])[] }) {
  return (
    <div
      className="mt-3 max-h-52 overflow-auto border border-line"
      tabIndex={0}
      role="region"
      aria-label="First rows of the query"
    >
      <table className="text-sm">
        <thead>
          <tr>
            {columns.map((column) => (
              <th key={column} scope="col" className={HEAD}>
                {column}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, place) => (
            <tr key={place}>
              {row.map((cell, at) => (
                <td key={columns[at]} className={`${CELL} max-w-52 truncate`}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A source that is asked: the query is tried before it can be kept. */
export function QueryDialog({ slug, onClose }: { slug: string; onClose: () => void }) {
  const [source, setSource] = useState("");
  const [query, setQuery] = useState({ address: "", password: "", sql: "" });
  const attempt = useTryQuery();
  const bringIn = useBringInQuery(slug);
  const navigate = useNavigate();
  const set = (part: Partial<typeof query>) => {
    attempt.reset();
    bringIn.reset();
    setQuery({ ...query, ...part });
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!attempt.data) return attempt.mutate(query);
    bringIn.mutate(
      { ...query, source },
      { onSuccess: (preview) => navigate(`/r/${slug}/bring-in/${preview.delivery.id}`) },
    );
  };
  return (
    <Modal title="Bring in from a database" wide onClose={onClose}>
      <form onSubmit={submit} className="space-y-2">
        <div className="grid grid-cols-[1fr_12rem] gap-3">
          <TextField
            label="Address of a PostgreSQL database"
            placeholder="postgresql://user@host:5432/database"
            value={query.address}
            required
            spellCheck={false}
            onChange={(event) => set({ address: event.target.value })}
          />
          <TextField
            label="Password"
            type="password"
            autoComplete="off"
            value={query.password}
            onChange={(event) => set({ password: event.target.value })}
          />
        </div>
        <TextArea
          label="Query (it can only read)"
          rows={4}
          required
          spellCheck={false}
          value={query.sql}
          onChange={(event) => set({ sql: event.target.value })}
        />
        <p className="text-xs text-soft">
          The password is kept in a file that only the server can read, apart from the address, and is never shown
          again.
        </p>
        {(attempt.error ?? bringIn.error) && <Trouble error={(attempt.error ?? bringIn.error) as Error} />}
        {attempt.data && (
          <>
            <FirstRows columns={attempt.data.columns} rows={attempt.data.rows} />
            <TextField
              label="Name of the source"
              required
              autoFocus
              maxLength={60}
              value={source}
              onChange={(event) => setSource(event.target.value)}
            />
          </>
        )}
        <div className="flex justify-end gap-2 pt-2">
          <Button onClick={onClose}>Leave</Button>
          <Button look="main" type="submit" disabled={attempt.isPending || bringIn.isPending}>
            {attempt.data ? "Bring its rows in" : "Try the query"}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button, Modal, notify, TextField, Trouble } from "../../ui";
import { useMend } from "./queries";

interface Props {
  slug: string;
  columns: readonly string[];
  row: Schemas["RejectedOut"];
  onClose: () => void;
}

/** The cells of a row that was set aside, to be mended and brought in with its delivery. */
export function MendDialog({ slug, columns, row, onClose }: Props) {
  const [cells, setCells] = useState<Record<string, string>>(row.cells ?? {});
  const mend = useMend(slug, row.id);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    mend.mutate(cells, {
      onSuccess: () => {
        notify(`Row ${row.row_number} was brought in.`);
        onClose();
      },
    });
  };
  return (
    <Modal title={`Mend row ${row.row_number}`} wide onClose={onClose}>
      <p className="text-sm">
        Set aside because {row.reason}
        {row.column_name && ` (column “${row.column_name}”)`}.
      </p>
      {!row.cells && <p className="mt-1 font-mono text-xs break-all text-soft">{row.value}</p>}
      <form onSubmit={submit}>
        <div className="my-3 grid max-h-[45vh] grid-cols-2 gap-x-4 gap-y-2 overflow-auto p-0.5">
          {columns.map((column, place) => (
            <TextField
              key={column}
              label={column}
              value={cells[column] ?? ""}
              autoFocus={row.column_name ? column === row.column_name : place === 0}
              onChange={(event) => setCells({ ...cells, [column]: event.target.value })}
            />
          ))}
        </div>
        {mend.error && <Trouble error={mend.error} />}
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button look="main" type="submit" disabled={mend.isPending}>
            Bring this row in
          </Button>
        </div>
      </form>
    </Modal>
  );
}

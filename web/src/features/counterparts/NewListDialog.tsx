import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { Button, Modal, TextField, Trouble } from "../../ui";
import { useMakeList } from "./queries";

/** Take a file, under a name; how its columns are read is set next. */
export function NewListDialog({ slug, onClose }: { slug: string; onClose: () => void }) {
  const [file, setFile] = useState<File | null>(null);
  const [name, setName] = useState("");
  const make = useMakeList(slug);
  const navigate = useNavigate();
  const choose = (chosen: File | null) => {
    setFile(chosen);
    if (chosen && !name) setName(chosen.name.replace(/\.[^.]*$/, ""));
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!file) return;
    make.mutate(
      { name: name.trim(), file },
      {
        onSuccess: (list) => {
          onClose();
          navigate(`/r/${slug}/counterparts/${encodeURIComponent(list.name)}?open=settings`);
        },
      },
    );
  };
  return (
    <Modal title="Look a file up" onClose={onClose}>
      <form onSubmit={submit} className="space-y-3">
        <label className="block text-sm">
          <span className="mb-1 block font-medium">File</span>
          <input
            type="file"
            onChange={(event) => choose(event.target.files?.[0] ?? null)}
            className="w-full rounded-[3px] border border-line-strong bg-sheet p-1 text-sm file:mr-3 file:h-7 file:rounded-[2px] file:border-0 file:bg-plum-wash file:px-2 file:text-ink"
          />
          <span className="mt-1 block text-xs text-soft">CSV, XLSX, ODS, JSON, JSON Lines, Parquet or vCard.</span>
        </label>
        <TextField
          label="Name of the list"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
        {make.error && <Trouble error={make.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button type="submit" look="main" disabled={!file || !name.trim() || make.isPending}>
            {make.isPending ? "Receiving…" : "Take this file"}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

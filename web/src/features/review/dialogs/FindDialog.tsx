import { useState } from "react";
import { useNavigate } from "react-router";
import { type FoundRecord, useFoundRecords } from "../../../api/records";
import { nameOf } from "../../../domain/format";
import { Button, Modal, Search } from "../../../ui";

/** Find records across the whole register; what is chosen is handed on: two face to face, or further ones for a table. */
export function FindDialog({
  slug,
  title,
  least,
  does,
  onChosen,
  onClose,
}: {
  slug: string;
  title: string;
  least: number;
  does: string;
  onChosen: (records: number[]) => void;
  onClose: () => void;
}) {
  const [search, setSearch] = useState("");
  const [chosen, setChosen] = useState<FoundRecord[]>([]);
  const found = useFoundRecords(slug, search, 12).data?.records ?? [];
  const toggle = (record: FoundRecord) =>
    setChosen(
      chosen.some(({ id }) => id === record.id) ? chosen.filter(({ id }) => id !== record.id) : [...chosen, record],
    );
  const listed = [...chosen, ...found.filter(({ id }) => !chosen.some((one) => one.id === id))];
  return (
    <Modal title={title} onClose={onClose} wide>
      <div className="space-y-3">
        <Search label="Search all records" value={search} onChange={setSearch} autoFocus />
        <ul className="max-h-80 overflow-auto border-t border-line" aria-label="Records found" tabIndex={0}>
          {listed.map((record) => (
            <li key={record.id} className="border-b border-line">
              <label className="flex items-center gap-3 px-1 py-1 text-sm">
                <input
                  type="checkbox"
                  className="accent-plum"
                  checked={chosen.some(({ id }) => id === record.id)}
                  onChange={() => toggle(record)}
                />
                <span className="flex-1 font-medium">{nameOf(record.fields) || record.source_key}</span>
                <span className="text-soft">
                  {[record.fields["address.line"], record.fields["address.city"]].filter(Boolean).join(", ")}
                </span>
                <span className="font-mono text-xs text-soft">{`${record.source} ${record.source_key}`}</span>
              </label>
            </li>
          ))}
        </ul>
        {search.trim().length >= 2 && listed.length === 0 && (
          <p className="text-sm text-soft">No record holds these words.</p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave</Button>
          <Button look="main" disabled={chosen.length < least} onClick={() => onChosen(chosen.map(({ id }) => id))}>
            {does}
          </Button>
        </div>
      </div>
    </Modal>
  );
}

/** Find any two records of the register and put them face to face, or more of them into a table. */
export function FindTwo({ slug, onClose }: { slug: string; onClose: () => void }) {
  const navigate = useNavigate();
  const go = (records: number[]) => {
    onClose();
    const [one = 0, other = 0] = [...records].sort((a, b) => a - b);
    const query = new URLSearchParams(records.map((id) => ["record", String(id)]));
    navigate(records.length === 2 ? `/r/${slug}/review/${one}/${other}` : `/r/${slug}/review/records?${query}`);
  };
  return (
    <FindDialog
      slug={slug}
      title="Find two records"
      least={2}
      does="Put them side by side"
      onChosen={go}
      onClose={onClose}
    />
  );
}

import { useState } from "react";
import { nameOf } from "../../domain/format";
import { Button, Modal, Search } from "../../ui";
import { useRecordsOf } from "./queries";

/** A record of the other source, found by words and mapped by hand. */
export function MapByHand({
  slug,
  source,
  onLink,
  onClose,
}: {
  slug: string;
  source: string;
  onLink: (record: number) => void;
  onClose: () => void;
}) {
  const [search, setSearch] = useState("");
  const found = useRecordsOf(slug, source, search);
  return (
    <Modal title={`Which record of ${source}?`} onClose={onClose} wide>
      <Search
        label={`Search the records of ${source}`}
        value={search}
        onChange={setSearch}
        className="w-96"
        autoFocus
      />
      <ul className="mt-2 max-h-80 divide-y divide-line overflow-auto">
        {(found.data?.records ?? []).map((record) => (
          <li key={record.id} className="flex items-center gap-3 py-1 text-sm">
            <Button needs="decide" small onClick={() => onLink(record.id)}>
              The same
            </Button>
            <span className="font-medium">{nameOf(record.fields) || record.source_key}</span>
            <span className="text-soft">
              {[record.fields["address.line"], record.fields["address.city"]].filter(Boolean).join(", ")}
            </span>
            <span className="ml-auto font-mono text-xs text-soft">{record.source_key}</span>
          </li>
        ))}
      </ul>
      {search.trim().length >= 2 && found.data?.records.length === 0 && (
        <p className="mt-2 text-sm text-soft">No record of {source} holds these words.</p>
      )}
    </Modal>
  );
}

import { useState } from "react";
import { useFoundRecords } from "../../api/records";
import { nameOf } from "../../domain/format";
import { Button, Search } from "../../ui";

/** Any record of the register, found by words and linked to the row in view. */
export function FindRecord({ slug, onLink }: { slug: string; onLink: (record: number) => void }) {
  const [search, setSearch] = useState("");
  const found = useFoundRecords(slug, search, 9);
  return (
    <section aria-label="Find another record" className="mt-4 border-t border-line pt-3">
      <Search
        label="Search all records of the register"
        value={search}
        onChange={setSearch}
        className="w-96"
        autoFocus
      />
      <ul className="mt-2 divide-y divide-line">
        {(found.data?.records ?? []).map((record) => (
          <li key={record.id} className="flex items-center gap-3 py-1 text-sm">
            <Button needs="pair up" small onClick={() => onLink(record.id)}>
              Link
            </Button>
            <span className="font-medium">{nameOf(record.fields) || record.source_key}</span>
            <span className="text-soft">
              {[record.fields["address.line"], record.fields["address.city"]].filter(Boolean).join(", ")}
            </span>
            <span className="ml-auto font-mono text-xs text-soft">{`${record.source} ${record.source_key}`}</span>
          </li>
        ))}
      </ul>
      {search.trim().length >= 2 && found.data?.records.length === 0 && (
        <p className="mt-2 text-sm text-soft">No record holds these words.</p>
      )}
    </section>
  );
}

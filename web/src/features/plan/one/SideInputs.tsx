import { useState } from "react";
import { useFoundRecords } from "../../../api/records";
import { nameOf } from "../../../domain/format";
import { Search } from "../../../ui";
import type { Side } from "./queries";

interface Props {
  slug: string;
  side: "left" | "right";
  fields: readonly { name: string; label: string }[];
  given: Side;
  onChange: (given: Side) => void;
}

/** One side of a pair: a record found by words, or values typed; whoever changes a value of a record has typed it. */
export function SideInputs({ slug, side, fields, given, onChange }: Props) {
  const [search, setSearch] = useState("");
  const found = useFoundRecords(slug, search, 6).data?.records ?? [];
  return (
    <fieldset className="min-w-0">
      <legend className={`font-semibold ${side === "left" ? "text-marine" : "text-rust"}`}>
        {side === "left" ? "Left" : "Right"}
        <span className="ml-2 font-normal text-soft">{given.record === null ? "typed" : "as it is kept"}</span>
      </legend>
      <Search label={`Find a record for the ${side} side`} value={search} onChange={setSearch} className="w-full" />
      {search.trim().length >= 2 && (
        <ul className="border border-t-0 border-line-strong" aria-label={`Records found for the ${side} side`}>
          {found.length === 0 && <li className="px-2 py-0.5 text-soft">No record holds these words.</li>}
          {found.map((record) => (
            <li key={record.id}>
              <button
                type="button"
                className="w-full truncate px-2 py-0.5 text-left hover:bg-plum-wash"
                onClick={() => {
                  onChange({ record: record.id, fields: record.fields });
                  setSearch("");
                }}
              >
                {nameOf(record.fields) || record.source_key}{" "}
                <span className="text-soft">
                  {[record.fields["address.line"], record.fields["address.city"], record.source]
                    .filter(Boolean)
                    .join(", ")}
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="mt-1 grid grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-x-2 gap-y-0.5">
        {fields.map(({ name, label }) => (
          <label key={name} className="contents">
            <span className="truncate text-soft" title={label}>
              {label}
            </span>
            <input
              aria-label={`${label}, ${side}`}
              className="h-6 w-full rounded-[3px] border border-line-strong bg-sheet px-1.5"
              value={given.fields[name] ?? ""}
              onChange={(event) => onChange({ record: null, fields: { ...given.fields, [name]: event.target.value } })}
            />
          </label>
        ))}
      </div>
    </fieldset>
  );
}

import type { Schemas } from "../../../api/client";
import { Choice } from "../../../ui";
import { filtersOf, type GoldenFilters, type ListQuery } from "./query";

interface Props {
  query: GoldenFilters;
  fields: readonly Schemas["FieldOut"][];
  sources: readonly string[];
  onChange: (values: Partial<GoldenFilters>) => void;
}

const BOX = "h-8 rounded-[3px] border border-line-strong bg-sheet px-2 text-sm placeholder:text-soft";

function Ticked({ label, ticked, onChange }: { label: string; ticked: boolean; onChange: (ticked: boolean) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <input type="checkbox" className="accent-plum" checked={ticked} onChange={() => onChange(!ticked)} />
      {label}
    </label>
  );
}

function Members({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  return (
    <input
      type="number"
      min={0}
      aria-label={label}
      value={value || ""}
      onChange={(event) => onChange(Math.max(0, Number.parseInt(event.target.value, 10) || 0))}
      className={`${BOX} w-16`}
    />
  );
}

/** All filters of golden records, one beside the other; they combine. */
export function Filters({ query, fields, sources, onChange }: Props) {
  const named = (word: string, none: string) => [
    { value: "", label: none },
    ...sources.map((name) => ({ value: name, label: `${word} ${name}` })),
  ];
  const empty = [
    { value: "", label: "any fields" },
    ...fields.map(({ name, label }) => ({ value: name, label: `${label} empty` })),
  ];
  return (
    <>
      <Choice
        label="With a record of"
        value={query.source}
        options={named("with", "with any source")}
        onChange={(source) => onChange({ source })}
        className="w-40"
      />
      <Choice
        label="Without a record of"
        value={query.without}
        options={named("without", "without no source")}
        onChange={(without) => onChange({ without })}
        className="w-40"
      />
      <span className="flex items-center gap-1.5">
        <Members
          label="Least records"
          value={query.least_members}
          onChange={(least_members) => onChange({ least_members })}
        />
        to
        <Members
          label="Most records"
          value={query.most_members}
          onChange={(most_members) => onChange({ most_members })}
        />
        records
      </span>
      <input
        aria-label="Country"
        placeholder="Country, e.g. DK"
        value={query.country}
        onChange={(event) => onChange({ country: event.target.value })}
        className={`${BOX} w-32`}
      />
      <label className="flex items-center gap-1.5">
        Changed since
        <input
          type="date"
          value={query.changed_since}
          onChange={(event) => onChange({ changed_since: event.target.value })}
          className={BOX}
        />
      </label>
      <Choice
        label="Incomplete"
        value={query.empty}
        options={empty}
        onChange={(field) => onChange({ empty: field })}
        className="w-44"
      />
      <Ticked label="pinned" ticked={query.pinned} onChange={(pinned) => onChange({ pinned })} />
      <Ticked
        label="contradictory"
        ticked={query.contradictory}
        onChange={(contradictory) => onChange({ contradictory })}
      />
    </>
  );
}

/** The filters that are set, each taken off by pressing it. */
export function SetFilters({
  query,
  labels,
  onChange,
}: {
  query: ListQuery;
  labels: Record<string, string>;
  onChange: (values: Partial<ListQuery>) => void;
}) {
  return filtersOf(query, labels).map(({ says, off }) => (
    <button
      key={says}
      type="button"
      aria-label={`Take off: ${says}`}
      className="rounded-[3px] border border-plum px-1.5 text-plum text-xs leading-5 hover:bg-plum-wash"
      onClick={() => onChange(off)}
    >
      {says} ×
    </button>
  ));
}

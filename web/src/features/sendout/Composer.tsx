import type { Schemas } from "../../api/client";
import { moment } from "../../domain/format";
import { Choice } from "../../ui";
import { GoldenFilters } from "../golden";
import { type SendOut, USUAL } from "./queries";

interface Props {
  sendOut: SendOut;
  fields: readonly Schemas["FieldOut"][];
  sources: readonly string[];
  onChange: (values: Partial<SendOut>) => void;
}

const TABLES: { value: SendOut["table"]; label: string; about: string }[] = [
  {
    value: "golden",
    label: "Golden records",
    about: "One row a golden record: its key, how many records it stands for, and its values.",
  },
  {
    value: "crosswalk",
    label: "Crosswalk, by source record",
    about: "Which golden record every source record belongs to.",
  },
  {
    value: "members",
    label: "Crosswalk, by golden record",
    about: "Which source records every golden record stands for.",
  },
  {
    value: "keys",
    label: "Keys, retired ones too",
    about: "All keys ever given: in force, merged into another, or ended, and where they lead.",
  },
  {
    value: "changes",
    label: "Changes since a moment",
    about:
      "Added, changed field by field with old and new value, merged into, split into, ended: what a receiving system follows.",
  },
];
const FORMATS: { value: SendOut["file_format"]; label: string }[] = [
  { value: "csv", label: "CSV" },
  { value: "xlsx", label: "XLSX" },
  { value: "jsonl", label: "JSON Lines" },
  { value: "parquet", label: "Parquet" },
  { value: "vcf", label: "vCard 4.0" },
];
const WRITTEN: { value: SendOut["written"]; label: string; hint: string }[] = [
  { value: "as kept", label: "as the register gives them", hint: "" },
  { value: "standard", label: "in standard form", hint: "E.164, ISO codes and dates" },
  { value: "for people", label: "for people to read", hint: "+44 1632 960704, Denmark" },
];
const CHOICES: { name: "short_streets" | "region_names"; field: string; label: string }[] = [
  { name: "short_streets", field: "address.line", label: "kinds of streets abbreviated (Harbour St)" },
  { name: "region_names", field: "address.region", label: "regions by name, not code" },
];
const BOX = "h-8 rounded-[3px] border border-line-strong bg-sheet px-2 text-sm placeholder:text-soft";

const NO_FILTERS = {
  source: "",
  without: "",
  least_members: 0,
  most_members: 0,
  country: "",
  pinned: false,
  contradictory: false,
  empty: "",
};
/** The day on which a moment is, in the reader's time; "" without one. */
const dayOf = (at: string | null | undefined) => (at ? moment(at).slice(0, 10) : "");
const momentOf = (day: string) => (day ? new Date(`${day}T00:00`).toISOString() : null);

function Line({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[8rem_minmax(0,1fr)] items-start gap-3 border-b border-line py-2 text-sm">
      <span className="leading-8 text-soft">{label}</span>
      <div className="flex min-h-8 flex-wrap items-center gap-x-3 gap-y-1.5">{children}</div>
    </div>
  );
}

/** What is sent out: table, format, and of golden records which, with which fields, written how. */
export function Composer({ sendOut, fields, sources, onChange }: Props) {
  const table = TABLES.find(({ value }) => value === sendOut.table) ?? TABLES[0];
  const withValues = sendOut.table === "golden" || sendOut.table === "changes";
  const every = [
    ...(sendOut.table === "golden"
      ? [
          { name: "golden_key", label: "Key" },
          { name: "records", label: "Records" },
        ]
      : []),
    ...fields,
  ];
  const chosen = sendOut.columns ?? [];
  const isSent = (name: string) => chosen.length === 0 || chosen.includes(name);
  const toggle = (name: string) => {
    const next = every.map((column) => column.name).filter((other) => (other === name ? !isSent(name) : isSent(other)));
    onChange({ columns: next.length === every.length ? [] : next });
  };
  return (
    <>
      <Line label="What">
        <Choice
          label="What"
          value={sendOut.table}
          options={TABLES}
          onChange={(value) =>
            // What one table asks for (filters, fields, a moment) means nothing to another.
            onChange({
              ...USUAL,
              since: null,
              table: value,
              file_format: value !== "golden" && sendOut.file_format === "vcf" ? "csv" : sendOut.file_format,
            })
          }
          className="w-64"
        />
        <span className="text-soft">{table?.about}</span>
      </Line>
      <Line label="Format">
        <Choice
          label="Format"
          value={sendOut.file_format}
          options={FORMATS.filter(({ value }) => value !== "vcf" || sendOut.table === "golden")}
          onChange={(file_format) => onChange({ file_format })}
          className="w-64"
        />
      </Line>
      {sendOut.table === "changes" && (
        <Line label="Since">
          <input
            type="date"
            aria-label="Since"
            value={dayOf(sendOut.since)}
            onChange={(event) => onChange({ since: momentOf(event.target.value) })}
            className={BOX}
          />
          <span className="text-soft">Left empty, a saved one sends what changed since its last run.</span>
        </Line>
      )}
      {sendOut.table === "golden" && (
        <Line label="Which">
          <input
            aria-label="Search"
            placeholder="Search keys and values"
            value={sendOut.search}
            onChange={(event) => onChange({ search: event.target.value })}
            className={`${BOX} w-48`}
          />
          <GoldenFilters
            query={{ ...NO_FILTERS, ...sendOut, changed_since: dayOf(sendOut.changed_since) }}
            fields={fields}
            sources={sources}
            onChange={({ changed_since, ...values }) =>
              onChange(changed_since === undefined ? values : { ...values, changed_since: momentOf(changed_since) })
            }
          />
        </Line>
      )}
      {withValues && sendOut.file_format !== "vcf" && (
        <Line label="Fields">
          {every.map(({ name, label }) => (
            <label key={name} className="flex items-center gap-1.5 whitespace-nowrap">
              <input type="checkbox" className="accent-plum" checked={isSent(name)} onChange={() => toggle(name)} />
              {label}
            </label>
          ))}
        </Line>
      )}
      {withValues && (
        <Line label="Values">
          <Choice
            label="Values"
            value={sendOut.written ?? "as kept"}
            options={WRITTEN}
            onChange={(written) => onChange({ written })}
            className="w-64"
          />
          {sendOut.table === "golden" && sendOut.file_format !== "vcf" && (
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-plum"
                checked={sendOut.further ?? false}
                onChange={() => onChange({ further: !sendOut.further })}
              />
              all values that records hold, in further columns
            </label>
          )}
          {CHOICES.filter(({ field }) => fields.some(({ name }) => name === field)).map(({ name, label }) => (
            <label key={name} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="accent-plum"
                checked={sendOut[name] ?? false}
                onChange={() => onChange({ [name]: !sendOut[name] })}
              />
              {label}
            </label>
          ))}
        </Line>
      )}
    </>
  );
}

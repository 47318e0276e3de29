import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { meansTheSame, valuesOf } from "../../../domain/fields";
import type { Cluster } from "./queries";

type Faced = Cluster["records"][number];

interface Props {
  cluster: Cluster;
  columns: readonly (readonly number[])[];
  /** The golden values of every group, the first group's first. */
  golden: readonly Record<string, string>[];
  marks: Readonly<Record<number, number>>;
  cursor: number;
  onlyDiffering: boolean;
  onToggle: (members: readonly number[]) => void;
  onCursor: (column: number) => void;
  onUnfold: (first: number) => void;
  onChoose: (record: Faced, field: string, value: string) => void;
}

/** Few records share the room there is; many have to be readable. */
const columnPx = (columns: number) => (columns <= 4 ? 162 : 182);
const CELL = "border-b border-line px-2.5 py-1 align-top break-words";
const FIRST = "sticky left-0 z-10 bg-paper";
const LAST = "sticky right-0 z-10 bg-paper border-l-2 border-l-plum";

/** Whether the records hold something in a field, and not all the same in meaning. */
export function differs(field: string, records: readonly Faced[]): boolean {
  const filled = records.filter((record) => valuesOf(field, record.fields) !== "");
  const [first] = filled;
  if (!first) return false;
  const value = valuesOf(field, first.fields);
  return filled.some(
    (record) => valuesOf(field, record.fields) !== value && !meansTheSame(field, record.tidy, first.tidy),
  );
}

const filledOf = (record: Faced) => Object.keys(record.fields).filter((name) => !name.includes("#")).length;

function Head({
  record,
  members,
  group,
  here,
  onToggle,
  onUnfold,
  goldenKey,
  width,
}: {
  record: Faced;
  members: readonly number[];
  group: number;
  here: boolean;
  onToggle: () => void;
  onUnfold: () => void;
  goldenKey: string | undefined;
  width: number;
}) {
  return (
    <th
      scope="col"
      className={`sticky top-0 z-10 border-b border-line-strong px-2.5 py-1 text-left text-sm ${group > 1 ? "bg-plum-wash" : "bg-paper"} ${here ? "shadow-[inset_0_3px_0_var(--plum)]" : ""}`}
      style={{ width, minWidth: width }}
    >
      <label className="flex items-center gap-1.5 font-medium">
        <input
          type="checkbox"
          className="accent-plum"
          checked={group > 1}
          onChange={onToggle}
          aria-label={`Take out ${record.source} ${record.source_key}`}
        />
        <span className="truncate">{record.source}</span>
        <span className="truncate font-mono text-xs font-normal text-soft">{record.source_key}</span>
        {group > 1 && <span className="ml-auto text-xs text-plum">{`group ${group}`}</span>}
      </label>
      <span className="block text-xs font-normal text-soft">
        {`${filledOf(record)} fields filled`}
        {goldenKey && <span className="font-mono">{` ${goldenKey}`}</span>}
        {members.length > 1 && (
          <button type="button" className="ml-1 text-plum underline" onClick={onUnfold}>
            {`${members.length} alike`}
          </button>
        )}
      </span>
    </th>
  );
}

/** Records as columns, fields as rows, the golden record that would come out last; only columns in sight are in the page. */
export function ClusterTable({
  cluster,
  columns,
  golden,
  marks,
  cursor,
  onlyDiffering,
  onToggle,
  onCursor,
  onUnfold,
  onChoose,
}: Props) {
  const scroller = useRef<HTMLElement>(null);
  const width = columnPx(columns.length);
  const byId = new Map(cluster.records.map((record) => [record.id, record]));
  const virtual = useVirtualizer({
    horizontal: true,
    count: columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => width,
    overscan: 3,
  });
  useEffect(() => {
    if (cursor < columns.length) virtual.scrollToIndex(cursor, { align: "auto" });
  }, [virtual, cursor, columns.length]);
  const shown = virtual.getVirtualItems();
  const before = shown[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (shown.at(-1)?.end ?? 0);
  const filled = cluster.fields.filter(({ name }) =>
    cluster.records.some((record) => valuesOf(name, record.fields) !== ""),
  );
  const apart = filled.filter(({ name }) => differs(name, cluster.records));
  const alike = onlyDiffering ? [] : filled.filter(({ name }) => !differs(name, cluster.records));
  const pad = (room: number) => room > 0 && <td aria-hidden="true" style={{ width: room, minWidth: room }} />;
  const rowOf = ({ name, label }: Cluster["fields"][number], soft: boolean) => (
    <tr key={name} className={soft ? "text-soft" : ""}>
      <th scope="row" className={`${CELL} ${FIRST} text-left text-xs font-medium text-soft`}>
        {label}
      </th>
      {pad(before)}
      {shown.map((item) => {
        const record = byId.get(columns[item.index]?.[0] ?? 0);
        if (!record) return null;
        const value = valuesOf(name, record.fields);
        const group = marks[record.id] ?? 1;
        const won = golden[Math.min(group, golden.length) - 1]?.[name] ?? "";
        const same = value === won;
        return (
          <td
            key={item.index}
            className={`${CELL} ${group > 1 ? "bg-plum-wash" : ""}`}
            style={{ width, minWidth: width, maxWidth: width }}
          >
            {value && (
              <button
                type="button"
                className={`text-left hover:underline ${same ? "text-soft" : "font-medium"}`}
                onClick={() => onChoose(record, name, record.fields[name] ?? "")}
              >
                {value}
              </button>
            )}
          </td>
        );
      })}
      {pad(after)}
      {golden.map((values, place) => (
        <td
          key={place}
          className={`${CELL} ${place === golden.length - 1 || golden.length === 1 ? LAST : "border-l-2 border-l-plum bg-paper"} w-56 min-w-56 font-semibold`}
        >
          {values[name]}
        </td>
      ))}
    </tr>
  );
  return (
    <section ref={scroller} aria-label="Records of the cluster" tabIndex={0} className="min-h-0 flex-1 overflow-auto">
      <table className="border-separate border-spacing-0 text-sm">
        <thead>
          <tr>
            <th
              scope="col"
              className={`sticky top-0 left-0 z-20 w-32 min-w-32 border-b border-line-strong bg-paper px-2.5 text-left text-xs text-soft`}
            >
              What differs
            </th>
            {pad(before)}
            {shown.map((item) => {
              const members = columns[item.index] ?? [];
              const record = byId.get(members[0] ?? 0);
              return record ? (
                <Head
                  key={record.id}
                  record={record}
                  members={members}
                  group={marks[record.id] ?? 1}
                  here={item.index === cursor}
                  width={width}
                  goldenKey={cluster.golden_keys[record.id]}
                  onToggle={() => {
                    onCursor(item.index);
                    onToggle(members);
                  }}
                  onUnfold={() => onUnfold(record.id)}
                />
              ) : null;
            })}
            {pad(after)}
            {golden.map((_, place) => (
              <th
                key={place}
                scope="col"
                className={`${place === golden.length - 1 || golden.length === 1 ? LAST : "border-l-2 border-l-plum bg-paper"} sticky top-0 z-20 w-56 min-w-56 border-b border-line-strong px-2.5 py-1 text-left`}
              >
                {golden.length > 1 ? `Golden record of group ${place + 1}` : "Golden record"}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {apart.map((field) => rowOf(field, false))}
          {alike.length > 0 && (
            <tr>
              <th
                scope="row"
                className={`${FIRST} border-b border-line-strong px-2.5 pt-4 text-left text-xs font-semibold text-soft`}
              >
                The same in all
              </th>
            </tr>
          )}
          {alike.map((field) => rowOf(field, true))}
        </tbody>
      </table>
      <p className="px-2.5 py-2 text-xs text-soft">← → choose a record, X takes it out, 1 to 9 mark it for a group.</p>
      {apart.length === 0 && <p className="px-4 py-6 text-soft">These records differ in nothing but writing.</p>}
    </section>
  );
}

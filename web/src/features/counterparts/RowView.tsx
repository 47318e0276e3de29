import { Link } from "react-router";
import { useLayout } from "../../api/registers";
import { likelihood } from "../../domain/evidence";
import { bits } from "../../domain/format";
import { Button, CELL, Key, Pane } from "../../ui";
import { FindRecord } from "./FindRecord";
import type { Candidate, CounterpartList, Row, Said } from "./queries";

interface Props {
  slug: string;
  list: CounterpartList;
  row: Row;
  finding: boolean;
  busy: boolean;
  onFind: (finding: boolean) => void;
  onSay: (said: Said | null) => void;
}

/** The row beside its candidates, field by field; cells that are no field stand below. */
export function RowView({ slug, list, row, finding, busy, onFind, onSay }: Props) {
  return (
    <div className="flex min-h-0 flex-col">
      <Pane label="The row and its candidates" className="flex-1 px-4 py-3">
        <Verdict row={row} />
        <Sheet slug={slug} list={list} row={row} busy={busy} onSay={onSay} />
        {finding && <FindRecord slug={slug} onLink={(record_id) => onSay({ verdict: "confirmed", record_id })} />}
      </Pane>
      <div className="flex flex-wrap gap-2 border-t border-line-strong bg-sunk px-4 py-2">
        <Button needs="pair up" disabled={busy || !row.key} onClick={() => onSay({ verdict: "nobody" })}>
          No counterpart <Key>0</Key>
        </Button>
        <Button disabled={!row.key} onClick={() => onFind(!finding)}>
          Find another <Key>F</Key>
        </Button>
        <Button needs="pair up" disabled={busy || !row.said_by} onClick={() => onSay(null)}>
          Take back <Key>U</Key>
        </Button>
      </div>
    </div>
  );
}

function Verdict({ row }: { row: Row }) {
  const says: Record<string, string> = {
    matched: "One record is the counterpart.",
    several: "Several records fit about as well: which one is meant?",
    unsure: "One record fits, but not surely.",
    none: "No record of the register fits.",
    rejected: `The row is no record: ${row.note}.`,
  };
  return (
    <p className="pb-2">
      {says[row.outcome]}
      {row.said_by && <span className="text-soft"> {row.said_by} said so.</span>}
    </p>
  );
}

function Sheet({ slug, list, row, busy, onSay }: Pick<Props, "slug" | "list" | "row" | "busy" | "onSay">) {
  const fields = useLayout(slug).data?.fields ?? [];
  const column = new Map(list.mapping.map((item) => [item.field, item.column || ""]));
  const own = (name: string) => row.cells[column.get(name) ?? ""] ?? "";
  const linked =
    row.counterpart && !row.candidates.some(({ of }) => of.record_id === row.counterpart?.record_id)
      ? row.counterpart
      : null;
  const shown = fields.filter(
    ({ name }) => own(name) || row.candidates.some(({ of }) => of.values[name]) || linked?.values[name],
  );
  const mapped = new Set(column.values());
  const beside = list.columns.filter((name) => !mapped.has(name) && row.cells[name]);
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="border-b-2 border-line-strong text-left align-bottom">
          <td className="w-32" />
          <th scope="col" className="border-b-2 border-marine px-2 py-1 font-semibold text-marine">
            Row {row.number + 1} <span className="font-mono font-normal">{row.key}</span>
          </th>
          {linked && (
            <th scope="col" className="border-b-2 border-plum px-2 py-1 font-semibold">
              {linked.golden_key || `${linked.source} ${linked.source_key}`}
              <span className="block text-xs font-normal text-soft">linked by hand</span>
            </th>
          )}
          {row.candidates.map((candidate) => (
            <CandidateHead
              key={candidate.of.record_id}
              slug={slug}
              row={row}
              candidate={candidate}
              busy={busy}
              onSay={onSay}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {shown.map(({ name, label }) => (
          <tr key={name}>
            <th scope="row" className={`${CELL} text-left text-xs font-semibold text-soft`}>
              {label}
            </th>
            <td className={CELL}>{own(name)}</td>
            {linked && <td className={CELL}>{linked.values[name]}</td>}
            {row.candidates.map(({ of }) => (
              <td key={of.record_id} className={CELL}>
                {of.values[name]}
              </td>
            ))}
          </tr>
        ))}
        {row.candidates.length > 0 && <Reasons row={row} linked={linked !== null} />}
        {beside.map((name) => (
          <tr key={name}>
            <th scope="row" className={`${CELL} text-left text-xs font-semibold text-soft`}>
              {name}
            </th>
            <td className={CELL}>{row.cells[name]}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Reasons({ row, linked }: { row: Row; linked: boolean }) {
  return (
    <tr>
      <th scope="row" className={`${CELL} text-left text-xs font-semibold text-soft`}>
        Why
      </th>
      <td className={CELL} />
      {linked && <td className={CELL} />}
      {row.candidates.map(({ of, reason }) => (
        <td key={of.record_id} className={`${CELL} text-xs text-soft`}>
          {reason}
        </td>
      ))}
    </tr>
  );
}

function CandidateHead({
  slug,
  row,
  candidate,
  busy,
  onSay,
}: Pick<Props, "slug" | "row" | "busy" | "onSay"> & { candidate: Candidate }) {
  const { of, rank, score, probability, rejected } = candidate;
  const chosen = row.outcome === "matched" && row.counterpart?.record_id === of.record_id;
  const name = of.golden_key || `${of.source} ${of.source_key}`;
  return (
    <th scope="col" className={`border-b-2 px-2 py-1 font-semibold ${chosen ? "border-plum" : "border-rust"}`}>
      <span className="flex items-center gap-2">
        {of.golden_key ? (
          <Link to={`/r/${slug}/golden/${of.golden_key}`} className="font-mono text-plum hover:underline">
            {name}
          </Link>
        ) : (
          <span className="font-mono text-rust">{name}</span>
        )}
        <span className="font-mono text-xs font-normal text-soft">
          {bits(score)} · {likelihood(probability)}
        </span>
      </span>
      <span className="mt-1 flex gap-1">
        <Button
          needs="pair up"
          look={chosen ? "plain" : "main"}
          small
          disabled={busy}
          onClick={() => onSay({ verdict: "confirmed", record_id: of.record_id })}
        >
          {chosen ? (row.said_by ? "Confirmed" : "Confirm") : "This one"} <Key>{`${rank}`}</Key>
        </Button>
        {rejected ? (
          <span className="self-center text-xs font-normal text-rust">said not to be</span>
        ) : (
          <Button
            needs="pair up"
            small
            disabled={busy}
            aria-label={`Not ${name}`}
            onClick={() => onSay({ verdict: "rejected", record_id: of.record_id })}
          >
            Not this
          </Button>
        )}
      </span>
    </th>
  );
}

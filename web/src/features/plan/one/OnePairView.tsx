import { bits } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";
import type { OnePair } from "./queries";

/** What the plan says of a pair: the verdict and where the two are lost, then levels, tidy forms and blocking keys. */
export function OnePairView({ pair }: { pair: OnePair }) {
  const found = pair.lost_at === "nowhere";
  return (
    <>
      <p role="status" className={`mt-3 border-l-[3px] pl-2 ${found ? "border-plum" : "border-rust"}`}>
        <b>{pair.verdict}</b>, <span className="font-mono">{bits(pair.score)}</span> bits. {pair.says}
        {pair.brought_by.length > 0 && ` Brought together by ${pair.brought_by.join(", ")}.`}
        {!pair.by_register && (
          <span className="text-soft"> Judged beside a part of the register: how common values are is estimated.</span>
        )}
      </p>
      <Evidence pair={pair} />
      <Keys pair={pair} />
      <TidyForms pair={pair} />
    </>
  );
}

function Table({ heads, children }: { heads: readonly string[]; children: React.ReactNode }) {
  return (
    <table className="mt-3 w-full table-fixed text-sm">
      <thead>
        <tr>
          {heads.map((head) => (
            <th key={head} scope="col" className={HEAD}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}

function Evidence({ pair }: { pair: OnePair }) {
  const level = new Map(pair.levels.map((one) => [one.name, one]));
  const missing = pair.levels.filter((one) => one.level === "missing");
  return (
    <>
      <Table heads={["Part of the score", "level", "bits", "why"]}>
        {pair.evidence.map((one) => (
          <tr key={`${one.field} ${one.label}`}>
            <td className={CELL}>{one.label}</td>
            <td className={CELL}>{level.get(one.field)?.level ?? ""}</td>
            <td className={`${CELL} font-mono`}>{one.veto ? "forbids" : bits(one.bits)}</td>
            <td className={CELL}>{one.sentence}</td>
          </tr>
        ))}
      </Table>
      {missing.length > 0 && (
        <p className="mt-1 text-soft">
          Nothing to compare: {missing.map(({ label }) => label).join(", ")}, which at least one side lacks.
        </p>
      )}
    </>
  );
}

function Keys({ pair }: { pair: OnePair }) {
  return (
    <Table heads={["Blocking key", "left", "right", ""]}>
      {pair.keys.map((one) => (
        <tr key={one.key} className={one.shared ? "bg-plum-wash" : ""}>
          <td className={`${CELL} font-mono text-xs`}>{one.key}</td>
          {[one.left, one.right].map((values, side) => (
            <td key={side === 0 ? "left" : "right"} className={`${CELL} truncate`} title={values.join(", ")}>
              {values.join(", ") || <span className="text-soft">none</span>}
            </td>
          ))}
          <td className={CELL}>{one.shared ? <b>shared</b> : <span className="text-soft">not shared</span>}</td>
        </tr>
      ))}
    </Table>
  );
}

function TidyForms({ pair }: { pair: OnePair }) {
  return (
    <Table heads={["Tidy form", "left", "right"]}>
      {pair.tidy.map((one) => (
        <tr key={one.field}>
          <td className={CELL}>{one.label}</td>
          {[one.left, one.right].map((value, side) => (
            <td
              key={side === 0 ? "left" : "right"}
              className={`${CELL} truncate ${one.left === one.right ? "text-soft" : ""}`}
              title={value}
            >
              {value}
            </td>
          ))}
        </tr>
      ))}
    </Table>
  );
}

import { moment } from "../../domain/format";
import type { Pair } from "./queries";

const SIDES: Record<string, string> = { left: "text-marine", right: "text-rust" };

/** What is other than when the pair was decided; the decision stays in force until somebody decides anew. */
export function ChangedSince({ pair }: { pair: Pair }) {
  if (pair.changed.length === 0 || !pair.decision) return null;
  const labels = new Map(pair.fields.map((field) => [field.name, field.label]));
  return (
    <section aria-label="Changed since decided" className="border-b border-line-strong bg-sunk px-4 py-2 text-sm">
      <p>
        {`Decided “${pair.decision.verdict}” by ${pair.decision.actor}, ${moment(pair.decision.at)}, and still in force. `}
        Since then the records changed:
      </p>
      <ul className="mt-1 space-y-0.5">
        {pair.changed.map(({ field, side, was, now }) => (
          <li key={`${side} ${field}`}>
            <span className={`font-medium ${SIDES[side] ?? ""}`}>
              {side === "left" ? pair.left.source : pair.right.source}
            </span>{" "}
            <span className="text-soft">{labels.get(field) ?? field.replaceAll(".", ", ")}</span>{" "}
            <span className="font-mono text-xs">{`${was || "nothing"} → ${now || "nothing"}`}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

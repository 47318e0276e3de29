import { bits, nameOf } from "../../../domain/format";
import type { BorderPair } from "../bench";

interface Props {
  pair: BorderPair;
  said: string | undefined;
  chosen: boolean;
  /** The limit, where this is the first pair below it. */
  limit: number | undefined;
  onChoose: () => void;
}

/** A pair in a line: its score and verdict, both records, why. */
export function PairLine({ pair, said, chosen, limit, onChoose }: Props) {
  const moved = pair.verdict !== pair.verdict_before;
  return (
    <li>
      {limit !== undefined && (
        <p className="border-y border-ink bg-sunk px-4 py-0.5 text-center text-xs font-semibold">limit {limit}</p>
      )}
      <button
        type="button"
        aria-current={chosen}
        onClick={onChoose}
        className={`grid w-full grid-cols-[6.5rem_minmax(0,1fr)_minmax(0,1fr)] items-start gap-x-3 border-b border-line px-4 py-1 text-left text-sm hover:bg-plum-wash ${
          chosen ? "bg-plum-wash" : ""
        }`}
      >
        <span className="row-span-2">
          <b className="font-mono">{bits(pair.score)}</b>
          <span className="block text-xs text-soft">
            {moved ? `${pair.verdict_before} → ${pair.verdict}` : pair.verdict}
          </span>
          {said && <span className="block text-xs font-semibold">decided {said}</span>}
        </span>
        <Side record={pair.left} colour="text-marine" />
        <Side record={pair.right} colour="text-rust" />
        <span className="col-span-2 col-start-2 truncate text-xs text-soft" title={pair.reason}>
          {pair.condition ? `${pair.condition}. ` : ""}
          {pair.reason}
        </span>
      </button>
    </li>
  );
}

function Side({ record, colour }: { record: BorderPair["left"]; colour: string }) {
  const { fields } = record;
  const where = ["address.line", "address.number", "address.postcode", "address.city", "address.country"]
    .map((name) => fields[name])
    .filter(Boolean)
    .join(", ");
  return (
    <span className="min-w-0">
      <span className={`block truncate font-medium ${colour}`}>{nameOf(fields) || "no name"}</span>
      <span className="block truncate text-xs">{[where, fields.phone, fields.email].filter(Boolean).join(" · ")}</span>
    </span>
  );
}

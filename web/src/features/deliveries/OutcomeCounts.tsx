import { Link } from "react-router";
import { count } from "../../domain/format";
import { OUTCOMES, outcomesOf, WITHOUT_PARENT } from "../../domain/outcomes";

interface Props {
  home: string;
  counts: Readonly<Record<string, number>>;
}

/** What came of a delivery in a line; each count opens its records. */
export function OutcomeCounts({ home, counts }: Props) {
  const told = outcomesOf(counts);
  if (told.length === 0) return <span className="block text-xs text-soft">to be recognised</span>;
  return (
    <span className="flex flex-wrap text-xs">
      {told.map(([outcome, number], place) => (
        <span key={outcome} className="whitespace-nowrap">
          {place > 0 && <span aria-hidden="true">· </span>}
          <Link
            className="mr-1 text-plum underline"
            title={OUTCOMES[outcome]}
            to={`${home}/outcomes?outcome=${outcome}`}
          >
            {outcome} {count(number)}
          </Link>
        </span>
      ))}
      {(counts[WITHOUT_PARENT] ?? 0) > 0 && (
        <span className="whitespace-nowrap">
          · {WITHOUT_PARENT} {count(counts[WITHOUT_PARENT] ?? 0)}
        </span>
      )}
    </span>
  );
}

import { Link } from "react-router";
import { count } from "../../domain/format";
import { OUTCOMES, outcomesOf } from "../../domain/outcomes";

interface Props {
  home: string;
  counts: Readonly<Record<string, number>>;
}

/** What came of a delivery in a line; each count opens its records. */
export function OutcomeCounts({ home, counts }: Props) {
  const told = outcomesOf(counts);
  if (told.length === 0) return <span className="block text-xs text-soft">to be recognised</span>;
  return (
    <span className="block text-xs">
      {told.map(([outcome, number], place) => (
        <span key={outcome}>
          {place > 0 && ", "}
          <Link className="text-plum underline" title={OUTCOMES[outcome]} to={`${home}/outcomes?outcome=${outcome}`}>
            {outcome} {count(number)}
          </Link>
        </span>
      ))}
    </span>
  );
}

import { hoursOfReview, type LimitCounts } from "../../../domain/bench";
import { count } from "../../../domain/format";
import type { Bench, Shown, Tried } from "../bench";

interface Props {
  counts: LimitCounts;
  tried: Tried;
  bench: Bench;
  onWalk: (shown: Shown) => void;
}

/** What the limits make of the pairs, as they are moved: pairs, golden records, hours of review; and what is gained and lost. */
export function Counts({ counts, tried, bench, onWalk }: Props) {
  const about = tried.exact ? "" : "about ";
  const figures = [
    {
      name: "pairs the same",
      value: `${about}${count(counts.same)}${counts.margin >= 1 ? ` ± ${count(counts.margin)}` : ""}`,
    },
    { name: "pairs in doubt", value: `${about}${count(counts.unsure)}` },
    { name: "golden records, about", value: `${about}${count(counts.golden)}` },
    {
      name:
        bench.pace_decisions > 0 ? `of review, at your ${bench.pace_s} s each` : `of review, at ${bench.pace_s} s each`,
      value: hoursOfReview(counts.unsure, bench.pace_s),
    },
  ];
  return (
    <div className="flex flex-wrap items-end gap-x-6 gap-y-1 py-1">
      <dl className="flex flex-wrap gap-x-6 gap-y-1 text-sm" aria-live="off">
        {figures.map(({ name, value }) => (
          <div key={name} className="flex flex-col-reverse">
            <dt className="text-xs text-soft">{name}</dt>
            <dd className="font-mono text-base font-semibold">{value}</dd>
          </div>
        ))}
      </dl>
      <p className="ml-auto text-sm">
        Against version {tried.against_version}:{" "}
        {(["gained", "lost"] as const).map((shown) => (
          <button
            key={shown}
            type="button"
            disabled={tried[shown] === 0}
            onClick={() => onWalk(shown)}
            className="ml-2 font-medium text-plum enabled:hover:underline disabled:text-soft"
          >
            {count(tried[shown])} {shown}
          </button>
        ))}
      </p>
    </div>
  );
}

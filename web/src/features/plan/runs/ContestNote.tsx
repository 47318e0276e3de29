import { count } from "../../../domain/format";
import type { PassReport } from "../queries";

/** With many sources, only those that share most are told. */
const MOST_TOLD = 8;

/** Which sources count as free of duplicates of their own, and how many partners they are expected to have. */
export function ContestNote({ contest }: { contest: NonNullable<PassReport["contest"]> }) {
  const free = contest.without_duplicates;
  const few = contest.few_duplicates ?? [];
  const told = [...contest.partners].sort((one, other) => other.expected - one.expected).slice(0, MOST_TOLD);
  const untold = contest.partners.length - told.length;
  return (
    <section aria-label="Partners" className="mt-3 mb-4 border-t border-line pt-2 text-sm">
      <p>
        {free.length > 0 && (
          <>
            Without duplicates of their own, as promised or found: <b>{free.join(", ")}</b>.{" "}
          </>
        )}
        {few.length > 0 && (
          <>
            Hardly any of their own but those found: <b>{few.join(", ")}</b>.{" "}
          </>
        )}
        A record of another source has one partner there at most, so candidates contest each other.
      </p>
      <ul className="mt-1 flex flex-wrap gap-x-5 gap-y-0.5">
        {told.map(({ one, other, expected }) => (
          <li key={`${one}/${other}`}>
            {one} and {other}: about <span className="font-mono">{count(Math.round(expected))}</span> partners
          </li>
        ))}
        {untold > 0 && <li className="text-soft">fewer between {count(untold)} more pairs of sources</li>}
      </ul>
      <p className="mt-1 text-soft">
        Not so? Say <code>contest: promised</code> or <code>none</code> under <code>weights</code> in the plan.
      </p>
    </section>
  );
}

import { Link } from "react-router";
import type { Golden } from "./queries";

/** The links that hold the records of a golden record together, the weakest first: there it would come apart. */
export function Bonds({ slug, golden }: { slug: string; golden: Golden }) {
  const called = new Map(golden.members.map((member) => [member.id, `${member.source} ${member.source_key}`]));
  return (
    <>
      <h2 className="text-sm font-semibold">What holds it together, the weakest link first</h2>
      <ul className="mt-1 grid grid-cols-[auto_auto_minmax(0,1fr)] gap-x-4 text-sm leading-6">
        {[...golden.bonds].reverse().map((bond) => (
          <li key={`${bond.left_id}-${bond.right_id}`} className="contents">
            <Link
              to={`/r/${slug}/review/${bond.left_id}/${bond.right_id}`}
              className="block font-medium whitespace-nowrap text-plum hover:underline"
            >
              {called.get(bond.left_id)} – {called.get(bond.right_id)}
            </Link>
            <span className="text-right font-mono whitespace-nowrap">
              {bond.score === null ? "" : `${bond.score.toFixed(1)} bits`}
            </span>
            <span className="truncate text-soft" title={bond.reason}>
              {bond.reason}
            </span>
          </li>
        ))}
      </ul>
      {golden.bonds.length === 0 && (
        <p className="text-sm text-soft">
          {golden.members.length > 1 ? "The latest run links none of its records." : "It stands for one record only."}
        </p>
      )}
    </>
  );
}

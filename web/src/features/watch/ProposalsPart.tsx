import { Link } from "react-router";
import { moment } from "../../domain/format";
import { CELL, Heads } from "../../ui";
import type { Watch } from "./queries";

const TOLD: Record<string, string> = {
  waiting: "Waiting for a second yes",
  "sent back": "Sent back, not dealt with yet",
  "carried out": "Signed off in these days",
  withdrawn: "Withdrawn in these days",
  overtaken: "Overtaken in these days",
  closed: "Proposed anew in these days",
};

/** What waits for sign-off, was sent back, and became of the rest. */
export function ProposalsPart({ slug, proposals }: { slug: string; proposals: Watch["proposals"] }) {
  if (proposals.length === 0) return null;
  return (
    <section aria-label="Sign-off">
      <h2 className="mb-2 font-semibold">
        <Link className="text-plum underline" to={`/r/${slug}/sign-off`}>
          Sign-off
        </Link>
      </h2>
      <table className="text-sm">
        <thead>
          <Heads titles={["Proposals", "How many", "The oldest"]} />
        </thead>
        <tbody>
          {proposals.map(({ state, count, oldest }) => (
            <tr key={state}>
              <td className={CELL}>{TOLD[state] ?? state}</td>
              <td className={`${CELL} text-right`}>{count}</td>
              <td className={CELL}>{moment(oldest)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

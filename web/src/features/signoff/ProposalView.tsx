import type { ReactNode } from "react";
import { Link } from "react-router";
import { moment } from "../../domain/format";
import { CELL, Heads } from "../../ui";
import type { Proposal } from "./queries";
import { actInWords, standing } from "./words";

/** What a proposal will do, line by line: what was, and what will be. */
function Effect({ lines }: { lines: Proposal["shows"] }) {
  if (lines.length === 0) return null;
  const anyBefore = lines.some((line) => line.was !== "");
  return (
    <table className="mt-4 w-full text-sm" aria-label="What it will do">
      <thead>
        <Heads titles={["What", ...(anyBefore ? ["Is"] : []), "Will be"]} />
      </thead>
      <tbody>
        {lines.map((line, place) => (
          <tr key={`${place} ${line.what}`}>
            <th scope="row" className={`${CELL} w-56 text-left font-medium`}>
              {line.what}
            </th>
            {anyBefore && <td className={`${CELL} break-words text-soft`}>{line.was}</td>}
            <td className={`${CELL} break-words`}>{line.will}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Signatures({ proposal }: { proposal: Proposal }) {
  return (
    <ul aria-label="Signed by" className="mt-1 text-sm">
      {proposal.signatures.map((yes) => (
        <li key={yes.actor}>
          {`Signed by ${yes.actor}, ${moment(yes.at)}`}
          {yes.remark && <span className="text-soft">{`: ${yes.remark}`}</span>}
        </li>
      ))}
    </ul>
  );
}

/** One proposal: what it will do, why it needs a second yes, who proposed and who signed it, and what can be done with it. */
export function ProposalView({ slug, proposal, children }: { slug: string; proposal: Proposal; children: ReactNode }) {
  return (
    <article aria-label="Proposal" className="max-w-4xl px-5 py-4">
      <p className="text-sm text-soft">{actInWords(proposal.act)}</p>
      <h2 className="text-lg font-semibold">{proposal.summary}</h2>
      <p className="mt-1 text-sm">
        {`${proposal.proposed_by} proposed it on ${moment(proposal.proposed_at)}. `}
        <span className="text-soft">{`It needs a second yes: ${proposal.why}.`}</span>
      </p>
      <p className="mt-2 font-medium" role="status">
        {standing(proposal)}
      </p>
      <Signatures proposal={proposal} />
      <div className="mt-3 flex flex-wrap items-center gap-2">
        {children}
        {proposal.leads_to && (
          <Link className="text-sm text-plum underline" to={`/r/${slug}/${proposal.leads_to}`}>
            Look at it in its place
          </Link>
        )}
      </div>
      <Effect lines={proposal.shows} />
    </article>
  );
}

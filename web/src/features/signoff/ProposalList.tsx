import { useEffect, useRef } from "react";
import { moment } from "../../domain/format";
import { Button, Empty } from "../../ui";
import type { Proposal } from "./queries";
import { actInWords } from "./words";

const NOTHING: Record<string, string> = {
  waiting: "Nothing waits for sign-off.",
  "sent back": "Nothing that was sent back is left.",
  ended: "No proposal has ended yet.",
};

/** The proposals, each with what it is, whose and since when; the chosen one is marked. */
export function ProposalList({
  proposals,
  chosen,
  state,
  onChoose,
  onMore,
}: {
  proposals: readonly Proposal[];
  chosen: Proposal | undefined;
  state: string;
  onChoose: (proposal: Proposal) => void;
  onMore: (() => void) | undefined;
}) {
  const marked = useRef<HTMLButtonElement>(null);
  const chosenId = chosen?.id;
  useEffect(() => {
    if (chosenId) marked.current?.scrollIntoView?.({ block: "nearest" });
  }, [chosenId]);
  if (proposals.length === 0) return <Empty title={NOTHING[state] ?? "Nothing here."} />;
  return (
    <ul>
      {proposals.map((proposal) => {
        const isChosen = proposal.id === chosen?.id;
        return (
          <li key={proposal.id}>
            <button
              type="button"
              ref={isChosen ? marked : null}
              aria-current={isChosen}
              onClick={() => onChoose(proposal)}
              className={`block w-full border-b border-l-[3px] border-b-line px-3 py-1.5 text-left text-sm hover:bg-plum-wash ${
                isChosen ? "border-l-plum bg-plum-wash" : "border-l-transparent"
              }`}
            >
              <span className="line-clamp-2">{proposal.summary}</span>
              <span className="block truncate text-xs text-soft">
                {`${actInWords(proposal.act)} · ${proposal.proposed_by} · ${moment(proposal.proposed_at)}`}
              </span>
            </button>
          </li>
        );
      })}
      {onMore && (
        <li className="p-2 text-center">
          <Button onClick={onMore}>Show more</Button>
        </li>
      )}
    </ul>
  );
}

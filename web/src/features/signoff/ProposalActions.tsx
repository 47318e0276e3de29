import { useWho } from "../../api/who";
import { Button, Key, Trouble } from "../../ui";
import type { Proposal } from "./queries";
import type { Acting } from "./useActing";

/** What this person can do with a proposal; what they may not, and why. */
export function ProposalActions({ proposal, acting }: { proposal: Proposal; acting: Acting }) {
  const mine = proposal.proposed_by === useWho().data?.name;
  const waits = proposal.state === "waiting";
  return (
    <>
      {waits && !proposal.why_not_you && (
        <>
          <Button look="main" needs="sign off" disabled={acting.busy} onClick={acting.sign}>
            Sign off <Key>Y</Key>
          </Button>
          <Button needs="sign off" disabled={acting.busy} onClick={acting.askWhy}>
            Send back <Key>B</Key>
          </Button>
        </>
      )}
      {waits && mine && (
        <Button needs="propose" disabled={acting.busy} onClick={acting.withdraw}>
          Withdraw it
        </Button>
      )}
      {proposal.state === "sent back" && (
        <>
          <Button look="main" needs="propose" disabled={acting.busy} onClick={acting.again}>
            Propose it again as it was
          </Button>
          <Button needs="propose" disabled={acting.busy} onClick={acting.withdraw}>
            Let it go
          </Button>
        </>
      )}
      {waits && proposal.why_not_you && <span className="text-sm text-soft">{proposal.why_not_you}</span>}
      {acting.error && (
        <div className="w-full">
          <Trouble error={acting.error} />
        </div>
      )}
    </>
  );
}

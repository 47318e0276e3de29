import { notify } from "../../ui";
import { type Proposal, useProposeAgain, useSign, useWithdrawProposal } from "./queries";

export interface Acting {
  sign: () => void;
  askWhy: () => void;
  withdraw: () => void;
  again: () => void;
  busy: boolean;
  error: Error | null;
}

/** Signing, withdrawing and proposing again; what came of a yes is told, and the next proposal comes into view. */
export function useActing(slug: string, proposal: Proposal | undefined, goOn: () => void, askWhy: () => void): Acting {
  const sign = useSign(slug);
  const withdraw = useWithdrawProposal(slug);
  const again = useProposeAgain(slug);
  const all = [sign, withdraw, again];
  const latest = all.find((one) => one.error);
  const after = (said: string) => ({
    onSuccess: () => {
      notify(said);
      goOn();
    },
  });
  return {
    sign: () =>
      proposal &&
      sign.mutate(proposal, {
        onSuccess: ({ state, reason }) => {
          if (state === "overtaken") notify(`Overtaken, nothing was changed: ${reason}`, true);
          else notify(state === "carried out" ? "Signed off and carried out." : "Signed off; a further yes is needed.");
          goOn();
        },
      }),
    askWhy,
    withdraw: () => proposal && withdraw.mutate(proposal, after("Withdrawn.")),
    again: () => proposal && again.mutate(proposal, after("Done: it needs no second yes any more.")),
    busy: all.some((one) => one.isPending),
    error: latest?.variables?.id === proposal?.id ? (latest?.error ?? null) : null,
  };
}

import type { Schemas } from "../../api/client";
import { count, counted } from "../../domain/format";
import { useAgreement, useProgress } from "./queries";

/** How well judgements agree, in words: "kappa 0.82 ± 0.11 of 34 pairs"; "" where it says nothing yet. */
export function kappaInWords({ kappa, margin, pairs }: Schemas["AgreementOut"]): string {
  return kappa === null || margin === null
    ? ""
    : `kappa ${kappa.toFixed(2)} ± ${margin.toFixed(2)} of ${counted(pairs, "pair")}`;
}

/** What this person decided today, and how second looks agree with first ones. */
export function Progress({ slug }: { slug: string }) {
  const today = useProgress(slug).data;
  const agreement = useAgreement(slug).data;
  const decided = today ? today.same + today.different + today.later : 0;
  const own = agreement && kappaInWords(agreement.with_self);
  const others = agreement && kappaInWords(agreement.with_others);
  if (!today || (decided === 0 && !own && !others)) return null;
  return (
    <p className="border-t border-r border-line bg-sunk px-3 py-1.5 text-xs text-soft">
      {`Today you said same of ${count(today.same)}, different of ${count(today.different)}, later of ${count(today.later)}.`}
      {own && ` Your second looks agree with your first: ${own}.`}
      {others && ` With those of others: ${others}.`}
    </p>
  );
}

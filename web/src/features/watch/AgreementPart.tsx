import type { Watch } from "./queries";

/** How people agree about pairs that two of them judged, as far as it can be told. */
export function AgreementPart({ agreement }: { agreement: Watch["agreement"] }) {
  const { pairs, equal, kappa, margin } = agreement;
  return (
    <section aria-label="Agreement between people">
      <h2 className="mb-2 font-semibold">Agreement between people</h2>
      {pairs === 0 ? (
        <p className="text-sm text-soft">No pair was judged by two people; decided pairs come up again now and then.</p>
      ) : (
        <p className="text-sm">
          {`${equal} of ${pairs} pairs that two people judged were judged alike.`}
          {kappa !== null && margin !== null && (
            <>
              <br />
              {`Cohen's kappa ${kappa.toFixed(2)} ± ${margin.toFixed(2)}`}
              <span className="text-soft"> (1 is full agreement, 0 what chance alone would bring)</span>
            </>
          )}
        </p>
      )}
    </section>
  );
}

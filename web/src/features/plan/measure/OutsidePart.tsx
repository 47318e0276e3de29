import { count, counted, moment } from "../../../domain/format";
import { Button, notify } from "../../../ui";
import { type Bench, type Trying, useCancelSettling } from "../bench";
import { type Measured, useLookOutside } from "./queries";

interface Props {
  slug: string;
  trying: Trying;
  bench: Bench;
  measured: Measured;
  onDecide: () => void;
}

/** What blocking misses, told from some records that are held against all others. */
export function OutsidePart({ slug, trying, bench, measured, onDecide }: Props) {
  const look = useLookOutside(slug);
  const cancel = useCancelSettling(slug);
  const failed = (error: Error) => notify(error, true);
  const { outside } = measured;
  return (
    <section aria-label="Outside the blocks" className="mt-4 border-t border-line pt-2 text-sm">
      <h2 className="font-semibold">Outside the blocks</h2>
      {outside ? (
        <p className="my-1">
          {count(outside.drawn)} of {counted(outside.records, "record")}, drawn by chance, were held against all others
          ({counted(outside.looked_at, "pair")}, {moment(outside.drawn_at)}): {count(outside.found)} that no block
          brings together score high enough to count; {count(outside.same)} of {count(outside.decided)} decided ones are
          the same. So blocking misses <b>about {count(Math.round(outside.missed.value))}</b> true pairs in all (
          {count(Math.round(outside.missed.low))} to {count(Math.round(outside.missed.high))}).
        </p>
      ) : (
        <p className="my-1 text-soft">
          Recall is told of the pairs that are compared. How many true pairs no block brings together, a look at some
          records against all others tells.
        </p>
      )}
      {measured.outside_of_blocks > 0 && (
        <p className="my-1">{counted(measured.outside_of_blocks, "pair")} decided the same are never compared.</p>
      )}
      <p className="flex flex-wrap items-center gap-2">
        {bench.running && bench.stage.includes("outside") ? (
          <>
            <span role="status">Looking{bench.total > 0 && `, ${Math.round((100 * bench.done) / bench.total)} %`}</span>
            <Button onClick={() => cancel.mutate(undefined, { onError: failed })}>Cancel</Button>
          </>
        ) : (
          <Button needs="try" disabled={bench.running} onClick={() => look.mutate(trying, { onError: failed })}>
            {outside ? "Look again, at other records" : "Look outside the blocks"}
          </Button>
        )}
        {outside && outside.found > outside.decided && (
          <Button onClick={onDecide}>Decide {count(Math.min(outside.found - outside.decided, 100))} of these</Button>
        )}
      </p>
    </section>
  );
}

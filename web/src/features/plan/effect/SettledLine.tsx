import { count, counted, duration } from "../../../domain/format";
import { Button, notify } from "../../../ui";
import { type Bench, type Tried, useCancelSettling, useSettle } from "../bench";

interface Props {
  slug: string;
  yaml: string;
  bench: Bench;
  tried: Tried;
  shown: boolean;
  onShow: () => void;
}

/** What a whole match of the plan found, or the way to one: what is told at once leaves out what only that can tell. */
export function SettledLine({ slug, yaml, bench, tried, shown, onShow }: Props) {
  const settle = useSettle(slug);
  const cancel = useCancelSettling(slug);
  const failed = (error: Error) => notify(error, true);
  const settled = tried.settled;
  if (bench.running)
    return (
      <p className="flex items-center gap-3 text-sm" role="status">
        <span>
          The bench is at work: {bench.stage}
          {bench.total > 0 && `, ${Math.round((100 * bench.done) / bench.total)} %`}
        </span>
        <Button onClick={() => cancel.mutate(undefined, { onError: failed })}>Cancel</Button>
      </p>
    );
  if (!settled)
    return (
      <p className="flex flex-wrap items-center gap-3 text-sm">
        <Button look="main" onClick={() => settle.mutate({ yaml, hold: true }, { onError: failed })}>
          Settle it
        </Button>
        <span className="text-soft">
          {tried.others_blocks
            ? "The blocking is another: pairs that were not compared before are missing until a whole match settles it."
            : "Told at once from kept levels. A whole match settles what it learns anew and who ends in one cluster."}
          {bench.error && ` ${bench.error}`}
        </span>
      </p>
    );
  return (
    <p className="text-sm">
      <b>Settled by a whole match</b>
      {bench.seconds > 0 && ` in ${duration(bench.seconds)}`}: {counted(settled.same, "pair")} the same,{" "}
      {count(settled.unsure)} in doubt, {count(settled.clusters)} golden records.{" "}
      {settled.gained === null ? (
        <button
          type="button"
          className="font-medium text-plum hover:underline"
          onClick={() => settle.mutate({ yaml: "", hold: false }, { onError: failed })}
        >
          Settle version {tried.against_version} to compare
        </button>
      ) : settled.joining || settled.cutting ? (
        <>
          {count(settled.gained)} gained and {count(settled.lost ?? 0)} lost against version {tried.against_version};{" "}
          {counted(settled.joining ?? 0, "golden record")} would join others, {count(settled.cutting ?? 0)} come apart.{" "}
          <button
            type="button"
            aria-expanded={shown}
            className="font-medium text-plum hover:underline"
            onClick={onShow}
          >
            {shown ? "Hide them" : "Show them"}
          </button>
        </>
      ) : (
        <>Golden records are as in version {tried.against_version}.</>
      )}
    </p>
  );
}

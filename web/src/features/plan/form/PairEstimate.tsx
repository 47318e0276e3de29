import { count } from "../../../domain/format";
import { Button, Trouble } from "../../../ui";
import { useEstimate } from "../queries";
import { KeyTable } from "../runs/KeyTable";

/** How many pairs each key of the plan as it stands in the editor will propose; asked for, since it reads many records. */
export function PairEstimate({ slug, yaml }: { slug: string; yaml: string }) {
  const estimate = useEstimate(slug);
  const found = estimate.data;
  return (
    <section aria-label="Pairs before a run" className="max-h-[45%] shrink-0 overflow-auto">
      <div className="flex items-center gap-3">
        <Button disabled={estimate.isPending} onClick={() => estimate.mutate(yaml)}>
          Estimate pairs
        </Button>
        <span role="status" className="text-sm text-soft">
          {found
            ? `About ${count(found.keys.reduce((sum, key) => sum + key.pairs, 0))} pairs among ${count(found.records)} records, pairs of several keys counted for each${
                found.sampled < found.records ? `; told from ${count(found.sampled)} records` : ""
              }.`
            : "What each blocking key will propose, before anything is compared."}
        </span>
      </div>
      {estimate.error && <Trouble error={estimate.error} />}
      {found && (
        <KeyTable
          heads={["Pairs, about", "Largest block"]}
          rows={found.keys.map((key) => ({ key: key.key, figures: [key.pairs, key.largest_block] }))}
        />
      )}
    </section>
  );
}

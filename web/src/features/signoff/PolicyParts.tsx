import type { ReactNode } from "react";
import { useLayout } from "../../api/registers";
import type { Policy } from "./queries";

function Tick({ on, onChange, children }: { on: boolean; onChange: (on: boolean) => void; children: ReactNode }) {
  return (
    <label className="flex min-h-7 items-center gap-2">
      <input type="checkbox" className="accent-plum" checked={on} onChange={() => onChange(!on)} />
      <span>{children}</span>
    </label>
  );
}

const NUMBER = "h-7 w-20 rounded-[3px] border border-line-strong bg-sheet px-2 text-sm";

/** What needs a second yes, clause by clause. */
export function PolicyParts({
  slug,
  policy,
  onChange,
}: {
  slug: string;
  policy: Policy;
  onChange: (part: Partial<Policy>) => void;
}) {
  const fields = useLayout(slug).data?.fields ?? [];
  const over = policy.merges_over ?? 0;
  return (
    <fieldset className="space-y-0.5 text-sm">
      <legend className="mb-1 font-medium">A second yes is needed for</legend>
      <Tick on={policy.everything} onChange={(everything) => onChange({ everything })}>
        Everything that people decide, merge, change, and put in force
      </Tick>
      <Tick on={policy.bulk} onChange={(bulk) => onChange({ bulk })}>
        Many at once: decisions, merges and corrections in one step
      </Tick>
      <Tick on={policy.deletions} onChange={(deletions) => onChange({ deletions })}>
        Deliveries taken back
      </Tick>
      <Tick on={policy.plans} onChange={(plans) => onChange({ plans })}>
        Plans, survivorship rules, tidy steps, quality rules, lists and settings that go in force
      </Tick>
      <label className="flex items-center gap-2">
        Golden records of more than
        <input
          type="number"
          min={0}
          max={1_000_000}
          className={NUMBER}
          value={over || ""}
          placeholder="any"
          onChange={(event) => onChange({ merges_over: Number(event.target.value) || null })}
        />
        records
      </label>
      <label className="flex items-center gap-2">
        Of the rest, drawn at random,
        <input
          type="number"
          min={0}
          max={100}
          step="any"
          className={NUMBER}
          value={policy.share ? Math.round(policy.share * 10_000) / 100 : ""}
          placeholder="0"
          onChange={(event) => onChange({ share: Math.min(Number(event.target.value) / 100, 1) })}
        />
        % of decisions and changes
      </label>
      <details open={policy.fields.length > 0}>
        <summary className="cursor-pointer">{`Values of protected fields (${policy.fields.length})`}</summary>
        <div className="mt-1 grid max-h-40 grid-cols-3 gap-x-4 overflow-auto pl-4">
          {fields.map(({ name, label }) => (
            <Tick
              key={name}
              on={policy.fields.includes(name)}
              onChange={(on) =>
                onChange({ fields: on ? [...policy.fields, name] : policy.fields.filter((other) => other !== name) })
              }
            >
              {label}
            </Tick>
          ))}
        </div>
      </details>
    </fieldset>
  );
}

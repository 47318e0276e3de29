import type { Schemas } from "../../api/client";
import { nameOf } from "../../domain/format";
import type { Golden } from "./queries";

const holder = ({ source, source_key, label }: Golden["held"][number]["holders"][number]) =>
  `${source} ${source_key}${label && ` (${label})`}`;

/** All distinct values that the records hold, where there are several: what did not win is not lost. */
export function HeldValues({ golden, fields }: { golden: Golden; fields: readonly Schemas["FieldOut"][] }) {
  const labelOf = (unit: string) =>
    unit === "address" ? "Address" : (fields.find(({ group }) => group === unit)?.label ?? unit);
  const units = [...new Set(golden.held.map(({ unit }) => unit))];
  return (
    <>
      <h2 className="text-sm font-semibold">All values its records hold</h2>
      {units.length === 0 && <p className="text-sm text-soft">Nothing but what stands above.</p>}
      <dl className="mt-1 text-sm">
        {units.map((unit) => (
          <div key={unit} className="grid grid-cols-[6rem_minmax(0,1fr)] gap-x-2 border-b border-line py-0.5">
            <dt className="text-soft">{labelOf(unit)}</dt>
            <dd>
              <ul>
                {golden.held
                  .filter((value) => value.unit === unit)
                  .map((value, place) => (
                    <li key={JSON.stringify(value.values)} className={place === 0 ? "font-medium" : ""}>
                      {unit === "name" ? nameOf(value.values) : Object.values(value.values).join(", ")}{" "}
                      <span className="text-soft text-xs font-normal">{value.holders.map(holder).join(", ")}</span>
                    </li>
                  ))}
              </ul>
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}

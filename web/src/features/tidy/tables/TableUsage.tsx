import { useState } from "react";
import { useLayout } from "../../../api/registers";
import { count, counted } from "../../../domain/format";
import { Button, CELL, Choice, Faces, HEAD } from "../../../ui";
import { type Table, useUsage } from "./queries";

interface Props {
  slug: string;
  table: Table;
  onTake: (value: string, nearest: string) => void;
}

/** What a table touches in a field of this register, and the values that a value map does not know yet. */
export function TableUsage({ slug, table, onTake }: Props) {
  const layout = useLayout(slug);
  const isMap = table.kind === "value map";
  const [chosen, setField] = useState("");
  const fields = layout.data?.fields ?? [];
  const field =
    chosen || (isMap ? (fields.find(({ kind }) => kind === "country") ?? fields[0]) : fields[0])?.name || "";
  const usage = useUsage(slug, table.name, table.version, field);
  return (
    <section aria-label="Values that it touches" className="text-sm">
      <div className="flex items-center gap-2 py-2">
        <span>In the field</span>
        <Choice
          label="Field looked at"
          value={field}
          options={fields.map(({ name, label }) => ({ value: name, label }))}
          onChange={setField}
          className="w-56"
        />
      </div>
      <Faces query={usage} rows={4}>
        {({ touched, unmapped, records_unmapped }) => (
          <>
            <p className="text-soft">
              {counted(Object.keys(touched).length, "entry", "entries")} as saved{" "}
              {Object.keys(touched).length === 1 ? "touches" : "touch"} values here
              {isMap && `; ${counted(records_unmapped, "record")} hold a value that the map does not know`}.
            </p>
            {isMap && unmapped.length === 0 && <p className="mt-3">Every value of this field is mapped.</p>}
            <table className="mt-2 w-full">
              <thead>
                <tr>
                  <th scope="col" className={HEAD}>
                    {isMap ? "Not mapped yet" : "Entry"}
                  </th>
                  <th scope="col" className={`${HEAD} text-right`}>
                    Records
                  </th>
                  {isMap && (
                    <th scope="col" className={HEAD}>
                      Nearest
                    </th>
                  )}
                </tr>
              </thead>
              <tbody>
                {isMap
                  ? unmapped.map(({ value, records, nearest }) => (
                      <tr key={value}>
                        <td className={`${CELL} break-words`}>{value}</td>
                        <td className={`${CELL} text-right`}>{count(records)}</td>
                        <td className={CELL}>
                          <Button
                            needs="tidy"
                            everywhere
                            look="quiet"
                            small
                            className="px-0"
                            aria-label={`Map ${value}`}
                            onClick={() => onTake(value, nearest)}
                          >
                            {nearest ? `→ ${nearest}` : "Map…"}
                          </Button>
                        </td>
                      </tr>
                    ))
                  : Object.entries(touched)
                      .sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]))
                      .slice(0, 200)
                      .map(([entry, records]) => (
                        <tr key={entry}>
                          <td className={CELL}>{entry}</td>
                          <td className={`${CELL} text-right`}>{count(records)}</td>
                        </tr>
                      ))}
              </tbody>
            </table>
          </>
        )}
      </Faces>
    </section>
  );
}

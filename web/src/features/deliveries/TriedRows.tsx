import type { Schemas } from "../../api/client";
import { tidyOf, valuesOf } from "../../domain/fields";
import { counted } from "../../domain/format";
import { CELL, HEAD } from "../../ui";

/** The first rows under the mapping: the delivered value, and below it the tidy one. */
export function TriedRows({ tried, fields }: { tried: Schemas["TriedOut"]; fields: readonly Schemas["FieldOut"][] }) {
  const shown = fields.filter((field) =>
    tried.rows.some((row) => valuesOf(field.name, row.fields) || tidyOf(field.name, row.tidy)),
  );
  return (
    <>
      {tried.rejected.length > 0 && (
        <p className="py-1.5 text-sm">
          Of the first rows {counted(tried.rejected.length, "row")} would be set aside:{" "}
          {tried.rejected.map((row) => `row ${row.row_number} (${row.reason})`).join("; ")}
        </p>
      )}
      <table className="text-sm">
        <thead>
          <tr>
            <th scope="col" className={HEAD}>
              Id
            </th>
            {shown.map((field) => (
              <th key={field.name} scope="col" className={HEAD}>
                {field.label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {tried.rows.map((row) => (
            <tr key={row.record_id}>
              <td className={`${CELL} font-mono text-xs leading-6`}>{row.record_id}</td>
              {shown.map((field) => (
                <td key={field.name} className={`${CELL} max-w-64`}>
                  <span className="block truncate">{valuesOf(field.name, row.fields)}</span>
                  <span className="block truncate font-mono text-xs text-soft">{tidyOf(field.name, row.tidy)}</span>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

import type { Schemas } from "../../api/client";
import { tidyOf, valuesOf } from "../../domain/fields";
import { counted } from "../../domain/format";
import type { Mapping } from "../../domain/mapping";
import { CELL, HEAD } from "../../ui";
import { MappingTrouble } from "./MappingTrouble";

/** Rows that would be set aside are listed up to here. */
const MOST_LISTED = 5;

function SetAside({ rejected }: { rejected: Schemas["TriedOut"]["rejected"] }) {
  const listed = rejected.slice(0, MOST_LISTED).map((row) => `row ${row.row_number} (${row.reason})`);
  const more = rejected.length - listed.length;
  return (
    <p className="py-1.5 text-sm">
      Of the first rows {counted(rejected.length, "row")} would be set aside: {listed.join("; ")}
      {more > 0 && ` and ${more} more`}
    </p>
  );
}

/** The first rows under the mapping: the delivered value, and below it the tidy one. */
export function TriedRows({
  tried,
  fields,
  onCure,
}: {
  tried: Schemas["TriedOut"];
  fields: readonly Schemas["FieldOut"][];
  onCure: (mapping: Mapping) => void;
}) {
  const shown = fields.filter((field) =>
    tried.rows.some((row) => valuesOf(field.name, row.fields) || tidyOf(field.name, row.tidy)),
  );
  return (
    <>
      {tried.trouble ? (
        <MappingTrouble trouble={tried.trouble} onCure={onCure} />
      ) : (
        tried.rejected.length > 0 && <SetAside rejected={tried.rejected} />
      )}
      {tried.rows.length > 0 && (
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
      )}
    </>
  );
}

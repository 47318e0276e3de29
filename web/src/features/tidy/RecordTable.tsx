import type { Schemas } from "../../api/client";
import { useLayout } from "../../api/registers";
import { tidyOf, valuesOf } from "../../domain/fields";
import { CELL, HEAD } from "../../ui";

export function RecordTable({ slug, records }: { slug: string; records: readonly Schemas["RecordOut"][] }) {
  const layout = useLayout(slug);
  const fields = (layout.data?.fields ?? []).filter((field) =>
    records.some((record) => valuesOf(field.name, record.fields) || tidyOf(field.name, record.tidy)),
  );
  return (
    <table className="text-sm">
      <thead>
        <tr>
          <th scope="col" className={HEAD}>
            Source
          </th>
          <th scope="col" className={HEAD}>
            Id
          </th>
          {fields.map((field) => (
            <th key={field.name} scope="col" className={HEAD}>
              {field.label}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {records.map((record) => (
          <tr key={record.id}>
            <td className={CELL}>{record.source}</td>
            <td className={`${CELL} font-mono text-xs leading-5 whitespace-nowrap`}>{record.source_key}</td>
            {fields.map((field) => {
              const tidy = tidyOf(field.name, record.tidy);
              return (
                <td key={field.name} className={`${CELL} max-w-72`}>
                  <span className="block truncate" title={valuesOf(field.name, record.fields)}>
                    {valuesOf(field.name, record.fields)}
                  </span>
                  <span className="block truncate font-mono text-xs text-soft" title={tidy}>
                    {tidy}
                  </span>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

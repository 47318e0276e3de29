import type { Schemas } from "../../../api/client";
import { useLayout } from "../../../api/registers";
import { tidyOf, valuesOf } from "../../../domain/fields";
import { CELL, HEAD } from "../../../ui";

interface Props {
  slug: string;
  records: readonly Schemas["RecordOut"][];
  labels: Schemas["RecordsOut"]["labels"];
  /** The field that something was asked of: it stands first, so that nobody has to look for it. */
  asked: string;
}

export function RecordTable({ slug, records, labels, asked }: Props) {
  const layout = useLayout(slug);
  const filled = (layout.data?.fields ?? []).filter(
    ({ name }) =>
      name === asked || records.some((record) => valuesOf(name, record.fields) || tidyOf(name, record.tidy)),
  );
  const fields = [...filled].sort((one, other) => Number(other.name === asked) - Number(one.name === asked));
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
            <td className={CELL}>
              {record.source}
              {record.state === "ended" && <span className="block text-xs text-soft">ended</span>}
            </td>
            <td className={`${CELL} font-mono text-xs leading-5 whitespace-nowrap`}>{record.source_key}</td>
            {fields.map((field) => {
              const tidy = tidyOf(field.name, record.tidy);
              const delivered = valuesOf(field.name, record.fields, labels[record.source]);
              return (
                <td key={field.name} className={`${CELL} max-w-72`}>
                  <span className="block truncate" title={delivered}>
                    {delivered}
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

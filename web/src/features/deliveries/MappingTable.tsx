import type { Schemas } from "../../api/client";
import { CELL, Choice, HEAD } from "../../ui";
import type { Mapping, Preview } from "./queries";

interface Props {
  fields: readonly Schemas["FieldOut"][];
  preview: Preview;
  mapping: Mapping;
  onChange: (column: string, target: string) => void;
}

/** Every column with examples, what it is taken to be, how surely, and why. */
export function MappingTable({ fields, preview, mapping, onChange }: Props) {
  const options = [
    { value: "", label: "(not used)" },
    { value: "id", label: "Source's own id" },
    ...fields.map((field) => ({ value: field.name, label: field.label, hint: field.kind })),
  ];
  const examples = (column: string) =>
    [...new Set(preview.rows.map((row) => row[column]).filter(Boolean))].slice(0, 3).join("  ·  ");
  return (
    <table className="w-full table-fixed text-sm">
      <thead>
        <tr>
          <th scope="col" className={`${HEAD} w-44`}>
            Column in the file
          </th>
          <th scope="col" className={HEAD}>
            Examples
          </th>
          <th scope="col" className={`${HEAD} w-60`}>
            Is the field
          </th>
          <th scope="col" className={`${HEAD} w-80`}>
            Why proposed
          </th>
        </tr>
      </thead>
      <tbody>
        {preview.proposals.map((proposal) => (
          <tr key={proposal.column}>
            <th scope="row" className={`${CELL} text-left font-medium`}>
              {proposal.column}
            </th>
            <td className={`${CELL} truncate font-mono text-xs leading-6`}>{examples(proposal.column)}</td>
            <td className={CELL}>
              <Choice
                label={`Field of ${proposal.column}`}
                value={mapping[proposal.column] ?? ""}
                options={options}
                onChange={(target) => onChange(proposal.column, target)}
                className="w-full"
              />
            </td>
            <td className={`${CELL} text-soft`}>
              {mapping[proposal.column] === proposal.target
                ? `${proposal.target ? `${Math.round(100 * proposal.confidence)} %: ` : ""}${proposal.reason}`
                : "chosen by you"}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

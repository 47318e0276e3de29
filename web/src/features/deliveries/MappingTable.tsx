import type { Schemas } from "../../api/client";
import { count, share } from "../../domain/format";
import { type Assignment, assignmentsOf, type Mapping, withColumn } from "../../domain/mapping";
import { CELL, HEAD } from "../../ui";
import { FieldChoices } from "./FieldChoices";
import { type Preview, useDraftProfile } from "./queries";

interface Props {
  slug: string;
  fields: readonly Schemas["FieldOut"][];
  preview: Preview;
  mapping: Mapping;
  onChange: (mapping: Mapping) => void;
}

const same = (chosen: readonly Assignment[], proposal: Schemas["ProposalOut"]) =>
  chosen.length === 1 && chosen[0]?.field === proposal.target && chosen[0]?.label === proposal.label;

function Why({ proposal, chosen, isNew }: { proposal: Schemas["ProposalOut"]; chosen: Assignment[]; isNew: boolean }) {
  if (!same(chosen, proposal)) return "chosen by you";
  const sure = proposal.target && proposal.confidence < 1;
  const told = `${sure ? `${Math.round(100 * proposal.confidence)} %: ` : ""}${proposal.reason}`;
  return (
    <>
      {isNew && <strong className="font-semibold text-ink">new column · </strong>}
      {told}
    </>
  );
}

/** How full a column is, how different its values are, and what is odd about them. */
function Looks({ profile }: { profile: Schemas["FieldProfileOut"] | undefined }) {
  if (!profile) return null;
  const fillers = profile.gap_fillers.reduce((sum, { records }) => sum + records, 0);
  return (
    <span className="block text-xs text-soft">
      {share(profile.filled, profile.records)} filled, {count(profile.distinct)} different
      {fillers > 0 && `, ${count(fillers)} only fill a gap`}
      {profile.odd.length > 0 && `, odd letters in ${count(Math.max(...profile.odd.map(({ records }) => records)))}`}
    </span>
  );
}

/** Every column with examples, what it is taken to be, how surely, and why. */
export function MappingTable({ slug, fields, preview, mapping, onChange }: Props) {
  const { columns } = preview.delivery;
  const profiles = useDraftProfile(slug, preview.delivery.id, preview.delivery.format);
  const looks = new Map(profiles.data?.fields.map((profile) => [profile.name, profile]));
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
          <th scope="col" className={`${HEAD} w-[25rem]`}>
            Is the field
          </th>
          <th scope="col" className={`${HEAD} w-72`}>
            Why proposed
          </th>
        </tr>
      </thead>
      <tbody>
        {preview.proposals.map((proposal) => {
          const chosen = assignmentsOf(mapping, proposal.column);
          return (
            <tr key={proposal.column}>
              <th scope="row" className={`${CELL} text-left font-medium break-words`}>
                {proposal.column}
              </th>
              <td className={CELL}>
                <span className="block truncate font-mono text-xs leading-5">{examples(proposal.column)}</span>
                <Looks profile={looks.get(proposal.column)} />
              </td>
              <td className={CELL}>
                <FieldChoices
                  fields={fields}
                  chosen={chosen}
                  onChange={(become) => onChange(withColumn(mapping, columns, proposal.column, become))}
                />
              </td>
              <td className={`${CELL} text-soft`}>
                <Why proposal={proposal} chosen={chosen} isNew={preview.new_columns.includes(proposal.column)} />
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

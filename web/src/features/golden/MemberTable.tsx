import type { Schemas } from "../../api/client";
import { meansTheSame, valuesOf } from "../../domain/fields";
import type { Golden, Member } from "./queries";

interface Props {
  golden: Golden;
  fields: readonly Schemas["FieldOut"][];
  chosen: ReadonlySet<number>;
  onToggle: (recordId: number) => void;
  onPin: (field: string) => void;
}

const CELL = "border-b border-line px-2.5 py-1 align-top";
const STICKY = "sticky left-0 z-10 bg-paper";

function Head({ member, chosen, onToggle }: { member: Member; chosen: boolean; onToggle: () => void }) {
  return (
    <th
      scope="col"
      className={`sticky top-0 z-10 min-w-44 border-b border-line-strong px-2.5 py-1.5 text-left text-sm ${chosen ? "bg-plum-wash" : "bg-paper"}`}
    >
      <label className="flex items-center gap-2 font-medium">
        <input
          type="checkbox"
          className="accent-plum"
          checked={chosen}
          onChange={onToggle}
          aria-label={`Choose ${member.source} ${member.source_key}`}
        />
        {member.source} <span className="font-mono text-xs font-normal text-soft">{member.source_key}</span>
      </label>
    </th>
  );
}

/** Whether the check digits of the identifier that won are right. */
const isChecked = (golden: Golden, field: string, origin: Golden["origins"][number] | undefined) =>
  golden.members.some(
    ({ source, source_key, tidy }) =>
      source === origin?.source && source_key === origin.source_key && Boolean(tidy[`${field}.checked`]),
  );

function GoldenCell({
  golden,
  field,
  onPin,
}: {
  golden: Golden;
  field: Schemas["FieldOut"];
  onPin: (field: string) => void;
}) {
  const pin = golden.pins.find((item) => item.field === field.name);
  const origin = golden.origins.find((item) => item.unit === field.group);
  return (
    <td className={`${CELL} min-w-60 border-r-2 border-r-plum`}>
      <button
        type="button"
        className="w-full text-left font-semibold hover:bg-plum-wash"
        aria-label={`Pin ${field.label}`}
        onClick={() => onPin(field.name)}
      >
        {golden.values[field.name] || <span className="font-normal text-soft">empty</span>}
      </button>
      <span className="block text-xs text-soft">
        {pin
          ? `pinned by ${pin.actor}: ${pin.reason}`
          : origin && golden.values[field.name] && `${origin.source}: ${origin.says}`}
        {isChecked(golden, field.name, origin) && "; its check digits are right"}
      </span>
    </td>
  );
}

function MemberCell({
  golden,
  field,
  member,
  chosen,
}: {
  golden: Golden;
  field: Schemas["FieldOut"];
  member: Member;
  chosen: boolean;
}) {
  const origin = golden.origins.find((item) => item.unit === field.group);
  const value = valuesOf(field.name, member.fields);
  const isOf = (item: { source: string; source_key: string } | undefined) =>
    item?.source === member.source && item.source_key === member.source_key;
  const pinned = golden.pins.some((pin) => pin.field === field.name);
  const wins = value !== "" && !pinned && isOf(origin);
  const lost = origin?.losers.find(isOf);
  // Only what means something else stands out; what is merely written otherwise does not.
  const winner = golden.members.find((one) => origin?.source === one.source && origin.source_key === one.source_key);
  const differs =
    value !== "" &&
    lost !== undefined &&
    !lost.why.startsWith("the same") &&
    !(winner && meansTheSame(field.name, member.tidy, winner.tidy));
  return (
    <td className={`${CELL} ${chosen ? "bg-plum-wash" : ""}`} title={lost && value ? lost.why : undefined}>
      <span
        className={
          wins ? "border-b-[3px] border-double border-plum font-medium" : differs ? "font-medium" : "text-soft"
        }
      >
        {value}
      </span>
      {wins && <span className="sr-only"> (won)</span>}
      {differs && <span className="block text-xs text-rust">{lost?.why}</span>}
    </td>
  );
}

/** Fields as rows, the golden values first, then every record; the value that won is underlined twice. */
export function MemberTable({ golden, fields, chosen, onToggle, onPin }: Props) {
  const shown = fields.filter(
    (field) => golden.values[field.name] || golden.members.some((member) => member.fields[field.name]),
  );
  return (
    <table className="border-separate border-spacing-0 text-sm">
      <thead>
        <tr>
          <th
            scope="col"
            className={`sticky top-0 left-0 z-20 min-w-36 border-b border-line-strong bg-paper px-2.5 py-1.5 text-left text-xs text-soft`}
          >
            Field
          </th>
          <th
            scope="col"
            className="sticky top-0 z-10 border-b border-line-strong border-r-2 border-r-plum bg-paper px-2.5 py-1.5 text-left"
          >
            <span className="font-mono">{golden.key}</span>
          </th>
          {golden.members.map((member) => (
            <Head key={member.id} member={member} chosen={chosen.has(member.id)} onToggle={() => onToggle(member.id)} />
          ))}
        </tr>
      </thead>
      <tbody>
        {shown.map((field) => (
          <tr key={field.name}>
            <th scope="row" className={`${CELL} ${STICKY} text-left text-xs font-medium text-soft`}>
              {field.label}
            </th>
            <GoldenCell golden={golden} field={field} onPin={onPin} />
            {golden.members.map((member) => (
              <MemberCell
                key={member.id}
                golden={golden}
                field={field}
                member={member}
                chosen={chosen.has(member.id)}
              />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

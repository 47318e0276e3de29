import { count, share } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";
import type { FieldProfile } from "./queries";

const sum = (counts: readonly { records: number }[]) => counts.reduce((total, { records }) => total + records, 0);

/** The figures of a field that a person looks at first: few words, numbers under each other. */
const FIGURES: readonly [string, (profile: FieldProfile) => string][] = [
  ["Filled", (profile) => share(profile.filled, profile.records)],
  ["Different", (profile) => count(profile.distinct)],
  ["Not valid", (profile) => (profile.checked ? count(profile.invalid) : "")],
  ["Gap fillers", (profile) => (profile.gap_fillers.length > 0 ? count(sum(profile.gap_fillers)) : "")],
  [
    "Odd letters",
    (profile) => (profile.odd.length > 0 ? count(Math.max(...profile.odd.map(({ records }) => records))) : ""),
  ],
];

interface Props {
  fields: readonly FieldProfile[];
  beside: readonly FieldProfile[] | null;
  chosen: string;
  onChoose: (field: string) => void;
}

/** One row a field; with a second set of records, its figures stand below in the colour of that side. */
export function ProfileTable({ fields, beside, chosen, onChoose }: Props) {
  const other = new Map(beside?.map((profile) => [profile.name, profile]));
  return (
    <table className="w-full text-sm">
      <thead>
        <tr>
          <th scope="col" className={HEAD}>
            Field
          </th>
          {FIGURES.map(([title]) => (
            <th key={title} scope="col" className={`${HEAD} text-right`}>
              {title}
            </th>
          ))}
          <th scope="col" className={HEAD}>
            Most frequent
          </th>
        </tr>
      </thead>
      <tbody>
        {fields.map((profile) => {
          const second = other.get(profile.name);
          return (
            <tr key={profile.name} aria-current={profile.name === chosen} className="aria-[current=true]:bg-plum-wash">
              <th scope="row" className={`${CELL} text-left font-medium`}>
                <button type="button" className="text-left text-plum underline" onClick={() => onChoose(profile.name)}>
                  {profile.label}
                </button>
              </th>
              {FIGURES.map(([title, figure]) => (
                <td key={title} className={`${CELL} text-right whitespace-nowrap`}>
                  <span className={`block ${second ? "text-marine" : ""}`}>{figure(profile)}</span>
                  {second && <span className="block text-rust">{figure(second)}</span>}
                </td>
              ))}
              <td className={`${CELL} max-w-0 w-1/3 truncate font-mono text-xs leading-5`}>
                {profile.frequent
                  .slice(0, 3)
                  .map(({ value }) => value)
                  .join("  ·  ")}
                {second && (
                  <span className="block truncate text-rust">
                    {second.frequent
                      .slice(0, 3)
                      .map(({ value }) => value)
                      .join("  ·  ")}
                  </span>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

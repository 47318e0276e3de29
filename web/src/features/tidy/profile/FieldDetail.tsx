import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { count, share } from "../../../domain/format";
import { recordsBehind, type Scope } from "../recordsBehind";
import type { FieldProfile } from "./queries";

type Counts = readonly Schemas["ValueCountOut"][];

interface ListProps {
  title: string;
  counts: Counts;
  of: number;
  to: (value: string) => string;
  says?: Record<string, string>;
}

function List({ title, counts, of, to, says }: ListProps) {
  if (counts.length === 0) return null;
  return (
    <section aria-label={title} className="mt-3">
      <h3 className="text-xs font-semibold text-soft">{title}</h3>
      <ul>
        {counts.map(({ value, records }) => (
          <li key={value} className="flex items-baseline gap-2 border-b border-line py-0.5">
            <span
              className={`min-w-0 flex-1 break-words ${says ? "" : "font-mono text-xs leading-5 whitespace-pre-wrap"}`}
            >
              {says?.[value] ?? value}
            </span>
            <Link to={to(value)} className="text-plum underline" aria-label={`${count(records)} records: ${value}`}>
              {count(records)}
            </Link>
            <span className="w-12 text-right text-xs text-soft">{share(records, of)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

interface Props {
  slug: string;
  scope: Scope;
  profile: FieldProfile;
  oddLetters: Record<string, string>;
}

/** All that is known of one field's values; each number leads to the records behind it. */
export function FieldDetail({ slug, scope, profile, oddLetters }: Props) {
  const to = (check: string) => (value: string) => recordsBehind(slug, scope, profile.name, check, value);
  const figures: [string, number, string][] = [
    ["filled", profile.filled, "filled"],
    ["empty", profile.empty, "empty"],
    ["in one record only", profile.single, "single"],
    ...(profile.checked ? [[`no valid ${profile.kind}`, profile.invalid, "invalid"] as [string, number, string]] : []),
  ];
  return (
    <div className="text-sm">
      <ul>
        {figures.map(([says, records, check]) => (
          <li key={says} className="flex items-baseline gap-2 border-b border-line py-0.5">
            <span className="flex-1">{says}</span>
            <Link to={to(check)("")} className="text-plum underline" aria-label={`${count(records)} records ${says}`}>
              {count(records)}
            </Link>
            <span className="w-12 text-right text-xs text-soft">{share(records, profile.records)}</span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-xs text-soft">
        {count(profile.distinct)} different values, {profile.shortest} to {profile.longest} letters long, usually{" "}
        {profile.usual_length}
        {profile.further.some((more) => more > 0) &&
          `; ${profile.further.map(count).join(" and ")} records hold more than one`}
        .
      </p>
      <List title="Only fill a gap" counts={profile.gap_fillers} of={profile.records} to={to("value")} />
      <List title="Odd letters" counts={profile.odd} of={profile.records} to={to("odd letters")} says={oddLetters} />
      {profile.checked && (
        <List
          title={`No valid ${profile.kind}, for example`}
          counts={profile.invalid_examples}
          of={profile.records}
          to={to("value")}
        />
      )}
      <List title="Rare shapes" counts={profile.rare_shapes} of={profile.records} to={to("shape")} />
      <List title="Most frequent values" counts={profile.frequent} of={profile.records} to={to("value")} />
      <List
        title="Shapes (A capital, a small letter, 9 digit)"
        counts={profile.shapes}
        of={profile.records}
        to={to("shape")}
      />
    </div>
  );
}

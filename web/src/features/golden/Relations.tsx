import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { counted } from "../../domain/format";
import type { Golden } from "./queries";

type Relation = Golden["leads_to"][number];

function Ends({ relations, says }: { relations: readonly Relation[]; says: (relation: Relation) => string }) {
  return relations.map((relation) => (
    <li key={`${relation.field} ${relation.register_slug} ${relation.key} ${relation.name}`} className="flex gap-2">
      <span className="text-soft">{says(relation)}</span>
      {relation.key ? (
        <Link className="text-plum underline" to={`/r/${relation.register_slug}/golden/${relation.key}`}>
          {relation.key}
        </Link>
      ) : (
        <span className="text-soft">not merged yet</span>
      )}
      <span className="min-w-0 flex-1 truncate">{relation.name}</span>
      <span className="whitespace-nowrap text-soft">{counted(relation.records, "record")}</span>
    </li>
  ));
}

/** References to and from other registers; records of one golden record that lead to several are a conflict. */
export function Relations({ golden, fields }: { golden: Golden; fields: readonly Schemas["FieldOut"][] }) {
  if (golden.leads_to.length === 0 && golden.led_from.length === 0) return null;
  const labelOf = (name: string) => fields.find((field) => field.name === name)?.label ?? name;
  const several = [...new Set(golden.leads_to.map(({ field }) => field))].filter(
    (field) => golden.leads_to.filter((relation) => relation.field === field).length > 1,
  );
  return (
    <section aria-label="Relations" className="mb-2">
      <h2 className="text-sm font-semibold">Relations</h2>
      {several.map((field) => (
        <p key={field} className="text-rust text-sm">
          Its records lead to several by {labelOf(field)}.
        </p>
      ))}
      <ul className="mt-1 text-sm">
        <Ends relations={golden.leads_to} says={({ field }) => `${labelOf(field)}:`} />
        <Ends
          relations={golden.led_from}
          says={({ register_slug, field }) => `referred to by ${register_slug} (${field}):`}
        />
      </ul>
    </section>
  );
}

import { Link } from "react-router";
import { useBegins } from "./queries";

interface Props {
  slug: string;
  typed: string;
  /** Keys that are shown already. */
  shown: readonly string[];
}

/** Golden records with words that begin as typed: whoever types half a name sees who is there. */
export function BeginsPart({ slug, typed, shown }: Props) {
  const found = (useBegins(slug, typed).data?.golden ?? []).filter(({ key }) => !shown.includes(key));
  if (typed.trim().length < 2 || found.length === 0) return null;
  return (
    <section aria-label="Begins as typed">
      <h2 className="mb-1 text-sm font-semibold">Others whose words begin as typed</h2>
      <ul className="divide-y divide-line text-sm">
        {found.map(({ key, values }) => (
          <li key={key} className="flex items-baseline gap-3 py-1">
            <Link className="font-medium text-plum underline" to={`/r/${slug}/golden/${key}`} target="_blank">
              {values.name ?? key}
            </Link>
            <span className="text-soft">
              {[values["address.line"], values["address.postcode"], values["address.city"]].filter(Boolean).join(", ")}
            </span>
            <span className="ml-auto font-mono text-xs text-soft">{key}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

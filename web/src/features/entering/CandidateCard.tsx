import { Link } from "react-router";
import { counted } from "../../domain/format";
import { Button } from "../../ui";
import type { Candidate } from "./queries";

interface Props {
  slug: string;
  candidate: Candidate;
  /** What fields are called, in the register's order. */
  labels: Readonly<Record<string, string>>;
  busy: boolean;
  onUse: () => void;
  onAdd: () => void;
}

const VERDICTS = { same: "the same", unsure: "may be the same" } as const;

/** A golden record that what was typed may be: why, what is said otherwise, what it has besides; to be used or added to. */
export function CandidateCard({ slug, candidate, labels, busy, onUse, onAdd }: Props) {
  const { golden_key: key, values, verdict } = candidate;
  // In the order of the register's fields, as everywhere.
  const differs = Object.keys(labels).flatMap((name) => {
    const both = candidate.differs[name];
    return both ? [{ name, ...both }] : [];
  });
  const has = Object.keys(labels).filter((name) => name in candidate.has);
  return (
    <article aria-label={key} className="rounded-[3px] border border-line-strong bg-sheet p-3">
      <div className="flex items-baseline gap-3">
        <h3 className="font-semibold">{values.name ?? key}</h3>
        <Link className="font-mono text-xs text-plum underline" to={`/r/${slug}/golden/${key}`} target="_blank">
          {key}
        </Link>
        <span className={`ml-auto text-sm font-medium ${verdict === "same" ? "text-plum" : "text-soft"}`}>
          {VERDICTS[verdict]}, {Math.round(candidate.probability * 100)} %
        </span>
      </div>
      <p className="mt-0.5 text-sm text-soft">{candidate.reason}</p>
      <table className="mt-2 w-full text-sm">
        <tbody>
          {differs.map(({ name, asked, there }) => (
            <tr key={name}>
              <th scope="row" className="w-36 py-0.5 text-left font-normal text-soft">
                {labels[name]}
              </th>
              <td className="py-0.5 font-medium">{there}</td>
              <td className="py-0.5 text-soft">you typed {asked}</td>
            </tr>
          ))}
          {has.map((name) => (
            <tr key={name}>
              <th scope="row" className="w-36 py-0.5 text-left font-normal text-soft">
                {labels[name]}
              </th>
              <td className="py-0.5" colSpan={2}>
                {values[name]}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-2 flex items-center gap-2">
        <Button needs="enter" look={verdict === "same" ? "main" : "plain"} disabled={busy} onClick={onUse}>
          Use this one
        </Button>
        <Button needs="enter" disabled={busy} onClick={onAdd}>
          Add to this one
        </Button>
        <span className="ml-auto text-xs text-soft">{counted(candidate.records, "record")}</span>
      </div>
    </article>
  );
}

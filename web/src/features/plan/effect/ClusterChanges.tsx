import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { nameOf } from "../../../domain/format";
import { Faces } from "../../../ui";
import { type Trying, useClusterChanges } from "../bench";

type Change = Schemas["ClusterChangeOut"];

/** Golden records that would join or come apart, record by record. */
export function ClusterChanges({ slug, trying, stamp }: { slug: string; trying: Trying; stamp: string }) {
  const query = useClusterChanges(slug, trying, stamp, true);
  return (
    <Faces query={query} rows={4}>
      {(data) => (
        <ul aria-label="Golden records that become others" className="mt-2 max-h-64 overflow-auto border-y border-line">
          {data.changes.map((change) => (
            <li key={change.records[0]?.id} className="border-b border-line px-2 py-1 text-sm last:border-b-0">
              <ChangeLine slug={slug} change={change} />
            </li>
          ))}
          {data.changes.length < data.joining + data.cutting && (
            <li className="px-2 py-1 text-sm text-soft">The first {data.changes.length} are shown.</li>
          )}
        </ul>
      )}
    </Faces>
  );
}

/** The groups that records are in after the change; the number behind each says in which they were before. */
function ChangeLine({ slug, change }: { slug: string; change: Change }) {
  const groups = [...new Set(change.after)].map((group) =>
    change.records.flatMap((record, place) =>
      change.after[place] === group ? [{ record, before: (change.before[place] ?? 0) + 1 }] : [],
    ),
  );
  const joins = groups.some((group) => new Set(group.map(({ before }) => before)).size > 1);
  return (
    <span>
      <span className="mr-2 text-xs text-soft">{joins ? "join" : "come apart"}</span>
      {groups.map((group, place) => (
        <span key={group[0]?.record.id}>
          {place > 0 && <span className="mx-2 text-rust">│</span>}
          {group.map(({ record, before }, number) => (
            <span key={record.id}>
              {number > 0 && " + "}
              <Link className="hover:underline" to={`/r/${slug}/review/records?record=${record.id}`}>
                {nameOf(record.fields)}
              </Link>
              <sub className="text-soft" title={`in golden record ${before} of these before`}>
                {before}
              </sub>
            </span>
          ))}
        </span>
      ))}
    </span>
  );
}

import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { moment, nameOf } from "../../../domain/format";
import { Button, Pane } from "../../../ui";
import { contextOptions, neighboursOptions, type Pair } from "../queries";
import { changesOf, sharedBy } from "./AroundStrip";

type Faced = Schemas["FacedRecordOut"];

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="border-b border-line py-2">
      <h3 className="text-xs font-semibold text-soft">{title}</h3>
      {children}
    </section>
  );
}

/** A record in a line, with what it holds of the telling fields. */
function Neighbour({ slug, record, beside }: { slug: string; record: Faced; beside: number }) {
  const about = [record.fields["address.line"], record.fields["address.city"], record.fields.phone].filter(Boolean);
  return (
    <li className="py-0.5">
      <Link
        className="text-plum hover:underline"
        to={`/r/${slug}/review/${Math.min(beside, record.id)}/${Math.max(beside, record.id)}`}
      >
        {nameOf(record.fields) || record.source_key}
      </Link>{" "}
      <span className="text-xs text-soft">{[record.source, ...about].join(", ")}</span>
    </li>
  );
}

function Shared({ slug, pair }: { slug: string; pair: Pair }) {
  const found = useQuery(neighboursOptions(slug, pair.left.id, pair.right.id)).data ?? [];
  const [open, setOpen] = useState("");
  return found.map((item) => {
    const key = `${item.field} ${item.value}`;
    return (
      <div key={key} className="py-0.5">
        <button
          type="button"
          aria-expanded={open === key}
          disabled={item.others === 0}
          className={`text-left ${item.others > 0 ? "hover:underline" : ""} ${item.shared ? "" : "text-soft"}`}
          onClick={() => setOpen(open === key ? "" : key)}
        >
          <span className="font-mono text-xs">{item.value}</span> {sharedBy(item)}
        </button>
        {open === key && (
          <ul className="pl-3">
            {item.records.map((record) => (
              <Neighbour key={record.id} slug={slug} record={record} beside={pair.left.id} />
            ))}
          </ul>
        )}
      </div>
    );
  });
}

function Effect({ pair, context }: { pair: Pair; context: Schemas["ContextOut"] }) {
  const changed = changesOf(context);
  const labels = new Map(pair.fields.map(({ name, label }) => [name, label]));
  if (changed.length === 0) return <p>The golden record would keep every value that either side has.</p>;
  return (
    <table className="w-full">
      <tbody>
        {changed.map((name) => (
          <tr key={name} className="align-top">
            <th scope="row" className="py-0.5 pr-2 text-left text-xs font-medium text-soft">
              {labels.get(name) ?? name}
            </th>
            <td className="py-0.5">
              <span className="text-marine">{context.left_golden[name] || "–"}</span>
              {" / "}
              <span className="text-rust">{context.right_golden[name] || "–"}</span>
              {" → "}
              <span className="font-medium">{context.together[name] || "–"}</span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What stands around a pair: who shares its values, the rest of both clusters, what merging would do, what was decided before. */
export function AroundPanel({ slug, pair, onClose }: { slug: string; pair: Pair; onClose: () => void }) {
  const context = useQuery(contextOptions(slug, pair.left.id, pair.right.id)).data;
  return (
    <Pane label="Around this pair" className="w-88 border-l border-line bg-sunk px-3 pb-3 text-sm">
      <div className="flex items-center justify-between pt-2">
        <h2 className="font-semibold">Around it</h2>
        <Button look="quiet" onClick={onClose} aria-label="Close what is around">
          ×
        </Button>
      </div>
      <Part title="Who else holds these values">
        <Shared slug={slug} pair={pair} />
      </Part>
      {context && (
        <>
          {context.left_cluster.length + context.right_cluster.length > 0 && (
            <Part title="In the same clusters">
              <ul>
                {context.left_cluster.map((record) => (
                  <Neighbour key={record.id} slug={slug} record={record} beside={pair.right.id} />
                ))}
                {context.right_cluster.map((record) => (
                  <Neighbour key={record.id} slug={slug} record={record} beside={pair.left.id} />
                ))}
              </ul>
            </Part>
          )}
          <Part
            title={`Golden values if they are the same${context.left_key || context.right_key ? ` (${[context.left_key, context.right_key].filter(Boolean).join(" and ")})` : ""}`}
          >
            <Effect pair={pair} context={context} />
          </Part>
          {context.said.length > 0 && (
            <Part title="Decided before about these records">
              <ul>
                {context.said.map((said) => (
                  <li
                    key={`${said.is_group} ${said.id}`}
                    className={`py-0.5 ${said.withdrawn ? "text-soft line-through" : ""}`}
                  >
                    {`${said.verdict} by ${said.actor}, ${moment(said.at)}`}
                    {said.is_group && `, about ${said.sides.flat().length} records`}
                    {said.remark && `: ${said.remark}`}
                  </li>
                ))}
              </ul>
            </Part>
          )}
        </>
      )}
    </Pane>
  );
}

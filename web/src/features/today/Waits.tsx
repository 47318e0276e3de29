import type { ReactNode } from "react";
import { Link } from "react-router";
import { count, counted } from "../../domain/format";
import type { Today } from "./queries";

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="mt-4">
      <h2 className="font-semibold">{title}</h2>
      <ul className="mt-1 text-sm">{children}</ul>
    </section>
  );
}

/** A line that leads to the work. */
function Line({ to, about, children }: { to: string; about: string; children: ReactNode }) {
  return (
    <li className="grid grid-cols-[8rem_minmax(0,1fr)] gap-3 border-b border-line py-1">
      <span className="text-soft">{about}</span>
      <Link to={to} className="min-w-0 text-plum hover:underline">
        {children}
      </Link>
    </li>
  );
}

const BACK: Record<string, string> = {
  day: "put off until a day that is there now",
  changed: "decided, and the records changed since in what the decision rested on",
};

/** What is held, what others ask, what came back and why, what looks wrong. */
export function CallsForYou({ today }: { today: Today }) {
  const { asked, came_back, wrong, held, to_sign, sent_back, work } = today;
  return (
    <>
      {work.length > 0 && (
        <Part title="Your work">
          {work.map(({ slug, register_name, piece }) => (
            <Line key={piece.id} about={register_name} to={`/r/${slug}/review?work=${piece.id}`}>
              {`${counted(piece.waiting, "doubt waits", "doubts wait")}: ${piece.says}`}
              {piece.due_on && (
                <span className={piece.late ? "text-rust" : "text-soft"}>
                  {` (until ${piece.due_on}${piece.late ? ", late" : ""})`}
                </span>
              )}
            </Line>
          ))}
        </Part>
      )}
      {to_sign.length > 0 && (
        <Part title="To sign off">
          {to_sign.map((one) => (
            <Line key={one.slug} about={one.register_name} to={`/r/${one.slug}/sign-off`}>
              {`${counted(one.count, "proposal waits", "proposals wait")} for your yes`}
            </Line>
          ))}
        </Part>
      )}
      {sent_back.length > 0 && (
        <Part title="Sent back to you">
          {sent_back.map((one) => (
            <Line key={one.id} about={one.register_name} to={`/r/${one.slug}/sign-off?state=sent+back&id=${one.id}`}>
              {`${one.summary}. ${one.sent_by}: ${one.reason}`}
            </Line>
          ))}
        </Part>
      )}
      {held.length > 0 && (
        <Part title="Held">
          {held.map((turn) => (
            <Line key={turn.id} about={turn.register_name} to={`/r/${turn.register_slug}/bring-in/unattended`}>
              {`${turn.source}: ${turn.why}`}
            </Line>
          ))}
        </Part>
      )}
      {asked.length > 0 && (
        <Part title="Asked of you">
          {asked.map((one) => (
            <Line
              key={`${one.slug} ${one.left_id} ${one.right_id}`}
              about={one.register_name}
              to={
                one.what === "cluster"
                  ? `/r/${one.slug}/review/records?of=${one.left_id}`
                  : `/r/${one.slug}/review/${one.left_id}/${one.right_id}`
              }
            >
              {`${one.asked_by} asks about a ${one.what}${one.remark ? `: ${one.remark}` : ""}`}
              {one.until && <span className="text-soft">{` (until ${one.until})`}</span>}
            </Line>
          ))}
        </Part>
      )}
      {came_back.length > 0 && (
        <Part title="Came back">
          {came_back.map((one) => (
            <Line
              key={`${one.slug} ${one.kind}`}
              about={one.register_name}
              to={`/r/${one.slug}/review${one.kind === "changed" ? "?kind=changed" : "?order=age"}`}
            >
              {`${counted(one.count, "doubt")} ${BACK[one.kind] ?? one.kind}`}
            </Line>
          ))}
        </Part>
      )}
      {wrong.length > 0 && (
        <Part title="Looks wrong">
          {wrong.map((one) => (
            <Line key={`${one.slug} ${one.says}`} about={one.register_name} to={`/r/${one.slug}/${one.leads_to}`}>
              {one.says}
            </Line>
          ))}
        </Part>
      )}
    </>
  );
}

/** The most frequent kinds of doubt that wait, by register. */
export function DoubtsByKind({ today }: { today: Today }) {
  if (today.waiting.length === 0) return null;
  return (
    <section aria-label="Doubts by kind" className="mt-4">
      <h2 className="font-semibold">Doubts by kind</h2>
      <ul className="mt-1 text-sm">
        {today.waiting.map(({ slug, register_name, kinds, more_kinds }) => (
          <li key={slug} className="grid grid-cols-[8rem_minmax(0,1fr)] gap-3 border-b border-line py-1">
            <span className="text-soft">{register_name}</span>
            <span className="flex flex-wrap gap-x-4">
              {kinds.map(({ kind, says, waiting }) => (
                <Link
                  key={kind}
                  to={`/r/${slug}/review?kind=${encodeURIComponent(kind)}`}
                  className="text-plum hover:underline"
                >
                  {`${count(waiting)} ${says}`}
                </Link>
              ))}
              {more_kinds > 0 && <span className="text-soft">{`and ${counted(more_kinds, "further kind")}`}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

import type { Schemas } from "../../../api/client";
import { count } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";

/** Real values before and after all steps, the most frequent first. */
export function BeforeAfter({ tried }: { tried: Schemas["TriedStepsOut"] }) {
  return (
    <>
      {tried.stopped.map((message) => (
        <p key={message} role="alert" className="my-2 border-l-2 border-rust bg-rust-wash px-3 py-1 text-sm">
          {message}
        </p>
      ))}
      <table className="w-full table-fixed text-sm">
        <thead>
          <tr>
            <th scope="col" className={HEAD}>
              Before
            </th>
            <th scope="col" className={HEAD}>
              After all steps
            </th>
            <th scope="col" className={`${HEAD} w-24 text-right`}>
              Records
            </th>
          </tr>
        </thead>
        <tbody>
          {tried.values.map((value) => (
            <tr key={`${value.before} ${value.after.join(" ")}`}>
              <td className={`${CELL} font-mono text-xs leading-5 break-words whitespace-pre-wrap`}>
                {value.before || <span className="text-soft">(empty)</span>}
              </td>
              <td className={`${CELL} font-mono text-xs leading-5 break-words whitespace-pre-wrap`}>
                {value.after.at(-1) ?? value.before}
              </td>
              <td className={`${CELL} text-right`}>{count(value.records)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {tried.values.length === 0 && <p className="py-6 text-center text-sm text-soft">No value to show.</p>}
    </>
  );
}

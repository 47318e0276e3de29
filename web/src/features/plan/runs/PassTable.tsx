import { Link } from "react-router";
import { count } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";
import type { PassReport } from "../queries";

const COLUMNS = ["in", "same before", "same", "several", "unsure", "left"];

interface Props {
  slug: string;
  run: number;
  passes: readonly PassReport[];
  shown: number;
  onShow: (number: number) => void;
}

/** Records that each pass took in and what it made of them, every count leading to its records; the chosen pass is told below. */
export function PassTable({ slug, run, passes, shown, onShow }: Props) {
  return (
    <table className="mt-2 w-full text-sm" aria-label="Passes, in records">
      <thead>
        <tr>
          <th scope="col" className={HEAD}>
            Pass
          </th>
          {COLUMNS.map((name) => (
            <th key={name} scope="col" className={`${HEAD} text-right whitespace-nowrap`}>
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {passes.map((pass, place) => (
          <tr key={pass.title} className={place === shown && passes.length > 1 ? "bg-plum-wash" : ""}>
            <td className={CELL}>
              {passes.length > 1 ? (
                <button
                  type="button"
                  aria-pressed={place === shown}
                  onClick={() => onShow(place)}
                  className="text-left font-medium text-plum hover:underline"
                >
                  {place + 1}. {pass.title}
                </button>
              ) : (
                pass.title
              )}
            </td>
            {COLUMNS.map((name) => (
              <td key={name} className={`${CELL} text-right font-mono`}>
                {pass.counts?.[name] ? (
                  <Link
                    className="text-plum hover:underline"
                    to={`/r/${slug}/tidy?${new URLSearchParams({ run: `${run}`, pass: `${place + 1}`, outcome: name })}`}
                  >
                    {count(pass.counts[name])}
                  </Link>
                ) : (
                  "0"
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

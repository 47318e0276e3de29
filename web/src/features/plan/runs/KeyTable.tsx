import { count } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";

interface Props {
  heads: readonly string[];
  rows: readonly { key: string; words?: string | undefined; figures: readonly number[] }[];
}

/** Blocking keys with figures beside them; the key in words shows when pointed at. */
export function KeyTable({ heads, rows }: Props) {
  return (
    <table className="w-full text-sm">
      <thead>
        <tr>
          <th scope="col" className={HEAD}>
            Blocking key
          </th>
          {heads.map((head) => (
            <th key={head} scope="col" className={`${HEAD} text-right whitespace-nowrap`}>
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(({ key, words, figures }) => (
          <tr key={key}>
            <td className={`${CELL} font-mono text-xs leading-5`} title={words}>
              {key}
            </td>
            {figures.map((figure, place) => (
              <td key={heads[place]} className={`${CELL} text-right`}>
                {count(figure)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

import { count } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";
import type { Tried } from "../bench";

interface Props {
  tried: Tried;
  onComparison: (name: string) => void;
  onCondition: (title: string) => void;
  onReorder: () => void;
}

/** Which comparisons and conditions decide, each leading to its pairs. */
export function DecidingTables({ tried, onComparison, onCondition, onReorder }: Props) {
  const otherOrder = tried.conditions.some((one, place) => one.best_place !== place + 1);
  const most = Math.max(...tried.comparisons.map(({ decides }) => decides), 1);
  return (
    <div className="mt-3 grid grid-cols-2 items-start gap-5">
      <table className="w-full text-sm">
        <thead>
          <tr>
            <th scope="col" className={HEAD}>
              Comparison
            </th>
            <th scope="col" className={`${HEAD} text-right`} title="Pairs whose verdict would be another without it">
              decides, pairs
            </th>
          </tr>
        </thead>
        <tbody>
          {tried.comparisons.map((one) => (
            <tr key={one.name}>
              <td className={CELL}>
                <button type="button" className="text-plum hover:underline" onClick={() => onComparison(one.name)}>
                  {one.label}
                </button>
              </td>
              <td className={`${CELL} text-right font-mono`}>
                <span
                  aria-hidden="true"
                  className="mr-2 inline-block h-2 bg-line-strong align-middle"
                  style={{ width: `${(60 * one.decides) / most}px` }}
                />
                {count(one.decides)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {tried.conditions.length > 0 && (
        <div>
          <table className="w-full text-sm">
            <thead>
              <tr>
                {["Condition", "holds", "decides"].map((head) => (
                  <th key={head} scope="col" className={`${HEAD} ${head === "Condition" ? "" : "text-right"}`}>
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {tried.conditions.map((one) => (
                <tr key={one.title}>
                  <td className={CELL}>
                    <button
                      type="button"
                      className="text-left text-plum hover:underline"
                      onClick={() => onCondition(one.title)}
                    >
                      {one.title}
                    </button>
                    <span className="block text-soft">then {one.then}</span>
                  </td>
                  <td className={`${CELL} text-right font-mono`}>{count(one.holds)}</td>
                  <td className={`${CELL} text-right font-mono`}>{count(one.decides)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {otherOrder && (
            <button type="button" className="mt-1 text-sm font-medium text-plum hover:underline" onClick={onReorder}>
              Put first what catches most
            </button>
          )}
        </div>
      )}
    </div>
  );
}

import { count } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";
import type { Measured } from "./queries";

const HEADS = ["Odds of being the same", "pairs", "drawn", "decided", "the same"];

/** How the sample was drawn: the strata of like odds, and what was decided in each. */
export function StrataTable({ strata }: { strata: Measured["strata"] }) {
  const rows = [...strata].reverse().filter(({ pairs }) => pairs >= 0.5);
  return (
    <details className="mt-2 text-sm">
      <summary className="cursor-pointer font-medium text-plum">How it was drawn</summary>
      <p className="my-1 text-soft">
        Pairs were drawn by chance from strata of like odds, most where an answer tells most. Each decided pair stands
        for its stratum; so the figures hold for all pairs, not only for those that were asked about.
      </p>
      <table className="w-full">
        <thead>
          <tr>
            {HEADS.map((head, place) => (
              <th key={head} scope="col" className={`${HEAD} ${place > 0 ? "text-right" : ""}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((one) => (
            <tr key={one.odds_from} className={one.drawn_from ? "" : "text-soft"}>
              <td className={CELL}>
                {oddsInWords(one.odds_from)}
                {!one.drawn_from && ", too many to tell by a sample"}
              </td>
              {[one.pairs, one.drawn, one.decided, one.same].map((value, place) => (
                <td key={HEADS[place + 1]} className={`${CELL} text-right font-mono`}>
                  {count(value)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

/** Log2 odds in words: "from 32 to 1 on", "from 1 to 250 on". */
function oddsInWords(bits: number): string {
  const odds = 2 ** Math.abs(bits);
  const rounded = odds < 10 ? Math.round(10 * odds) / 10 : Number(odds.toPrecision(2));
  if (bits === 0) return "from even on";
  return bits > 0 ? `from ${count(rounded)} to 1 on` : `from 1 to ${odds < 10 ? rounded : count(rounded)} on`;
}

import { useState } from "react";
import { bits } from "../../../domain/format";
import { CELL, HEAD } from "../../../ui";
import type { Lesson } from "./queries";

const FIRST = 10;
const HEADS = ["Comparison", "level", "the same", "different", "bits"];

/** What decisions add to the levels of comparisons, the most first. */
export function LevelTable({ levels }: { levels: Lesson["levels"] }) {
  const [all, setAll] = useState(false);
  const sorted = [...levels].sort((one, other) => Math.abs(other.bits) - Math.abs(one.bits));
  return (
    <>
      <table className="mt-1 w-full text-sm">
        <thead>
          <tr>
            {HEADS.map((head, place) => (
              <th key={head} scope="col" className={`${HEAD} ${place > 1 ? "text-right" : ""}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {sorted.slice(0, all ? undefined : FIRST).map((one) => (
            <tr key={`${one.comparison} ${one.level}`}>
              <td className={CELL}>{one.comparison}</td>
              <td className={CELL}>{one.level}</td>
              <td className={`${CELL} text-right font-mono`}>{one.same}</td>
              <td className={`${CELL} text-right font-mono`}>{one.different}</td>
              <td className={`${CELL} text-right font-mono`}>{bits(one.bits)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {sorted.length > FIRST && (
        <button type="button" className="mt-1 text-plum hover:underline" onClick={() => setAll(!all)}>
          {all ? "Only those moved most" : `All ${sorted.length} levels`}
        </button>
      )}
    </>
  );
}

import { duration } from "../../domain/format";
import { CELL, Heads } from "../../ui";
import type { Watch } from "./queries";

/** How long a decision takes: the middle one, with how many it is of. */
export function PacePart({ paces }: { paces: Watch["paces"] }) {
  return (
    <section aria-label="How long a decision takes">
      <h2 className="mb-2 font-semibold">How long a decision takes</h2>
      {paces.length === 0 ? (
        <p className="text-sm text-soft">Too little was decided in a row to tell.</p>
      ) : (
        <table className="w-full text-sm">
          <thead>
            <Heads titles={["Person", "Median", "Of"]} />
          </thead>
          <tbody>
            {paces.map(({ actor, median_s, pauses }) => (
              <tr key={actor}>
                <td className={CELL}>{actor}</td>
                <td className={CELL}>{duration(median_s)}</td>
                <td className={CELL}>{pauses}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-1 text-xs text-soft">
        From one decision to the next; pauses of more than ten minutes are left out.
      </p>
    </section>
  );
}

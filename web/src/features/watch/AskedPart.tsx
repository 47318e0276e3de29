import { Link } from "react-router";
import { moment } from "../../domain/format";
import { CELL, Heads } from "../../ui";
import type { Watch } from "./queries";

/** What waits for people who were asked, and what of it has waited for more than a week. */
export function AskedPart({ slug, asked }: { slug: string; asked: Watch["asked"] }) {
  return (
    <section aria-label="Asked of people">
      <h2 className="mb-2 font-semibold">Asked of people</h2>
      {asked.length === 0 ? (
        <p className="text-sm text-soft">Nobody is asked about a doubt.</p>
      ) : (
        <table className="w-full text-sm">
          <thead>
            <Heads titles={["Person", "Waiting", "Over a week", "Oldest"]} />
          </thead>
          <tbody>
            {asked.map(({ name, waiting, late, oldest }) => (
              <tr key={name}>
                <td className={CELL}>
                  <Link
                    className="text-plum underline"
                    to={`/r/${slug}/review?${new URLSearchParams({ asked: name })}`}
                  >
                    {name}
                  </Link>
                </td>
                <td className={CELL}>{waiting}</td>
                <td className={`${CELL} ${late > 0 ? "font-medium text-rust" : ""}`}>{late}</td>
                <td className={CELL}>{moment(oldest)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

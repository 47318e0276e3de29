import { Link } from "react-router";
import { useWork } from "../../api/work";
import { CELL, Heads } from "../../ui";

/** How far each piece of work is: done, waiting, what of it waits for sign-off, and what is late. */
export function WorkPart({ slug }: { slug: string }) {
  const pieces = useWork(slug).data ?? [];
  return (
    <section aria-label="Work that is given">
      <h2 className="mb-2 font-semibold">Work that is given</h2>
      {pieces.length === 0 ? (
        <p className="text-sm text-soft">Nothing is given to anybody.</p>
      ) : (
        <table className="w-full text-sm">
          <thead>
            <Heads titles={["To", "What", "Done", "To be signed", "Waiting", "Until"]} />
          </thead>
          <tbody>
            {pieces.map((piece) => (
              <tr key={piece.id}>
                <td className={CELL}>{piece.people.join(", ")}</td>
                <td className={CELL}>
                  <Link className="text-plum underline" to={`/r/${slug}/review?work=${piece.id}`}>
                    {piece.says}
                  </Link>
                </td>
                <td className={CELL}>{piece.decided}</td>
                <td className={CELL}>{piece.proposed}</td>
                <td className={CELL}>{piece.waiting}</td>
                <td className={`${CELL} ${piece.late ? "font-medium text-rust" : ""}`}>
                  {piece.due_on ? `${piece.due_on}${piece.late ? ", late" : ""}` : ""}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

import { Empty, Faces, Pane } from "../../../ui";
import { useDifference } from "./queries";

/** What the plan on the bench says otherwise than a version, in words. */
export function DifferencePane({ slug, yaml, against }: { slug: string; yaml: string; against: number }) {
  const query = useDifference(slug, yaml, against, true);
  return (
    <Pane label="What is different" className="h-full px-4 py-2 text-sm">
      <Faces query={query} rows={4}>
        {(changes) =>
          changes.length === 0 ? (
            <Empty title={`It says the same as version ${against}.`} />
          ) : (
            <table className="w-full">
              <thead>
                <tr className="text-left text-xs text-soft">
                  <th scope="col" className="py-1 font-semibold">
                    Part
                  </th>
                  <th scope="col" className="py-1 font-semibold">
                    Version {against}
                  </th>
                  <th scope="col" className="py-1 font-semibold">
                    On the bench
                  </th>
                </tr>
              </thead>
              <tbody>
                {changes.map((change) => (
                  <tr
                    key={`${change.part} ${change.before} ${change.after}`}
                    className="border-t border-line align-top"
                  >
                    <td className="py-1 pr-3">{change.part}</td>
                    <td className="py-1 pr-3 text-marine">{change.before || "–"}</td>
                    <td className="py-1 text-rust">{change.after || "–"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )
        }
      </Faces>
    </Pane>
  );
}

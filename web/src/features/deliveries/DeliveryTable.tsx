import { Link } from "react-router";
import { count, moment } from "../../domain/format";
import { CELL, Empty, Faces, HEAD } from "../../ui";
import { type Delivery, useDeliveries } from "./queries";

const COUNTS = ["rows", "new", "changed", "unchanged", "rejected", "gone"] as const;
const TITLES = ["Source", "File", "Format", "When", "Rows", "New", "Changed", "Unchanged", "Rejected", "Gone"];

function Row({ slug, delivery }: { slug: string; delivery: Delivery }) {
  const home = `/r/${slug}/bring-in/${delivery.id}`;
  return (
    <tr>
      <td className={`${CELL} font-medium`}>{delivery.source}</td>
      <td className={CELL}>
        {delivery.status === "draft" ? (
          <Link className="font-medium text-plum underline" to={home}>
            {delivery.file_name}: check and load
          </Link>
        ) : (
          delivery.file_name
        )}
        {delivery.status === "discarded" && <span className="text-soft"> (discarded)</span>}
      </td>
      <td className={`${CELL} text-soft`}>{delivery.format}</td>
      <td className={`${CELL} whitespace-nowrap text-soft`}>{moment(delivery.loaded_at ?? delivery.created_at)}</td>
      {COUNTS.map((name) => (
        <td key={name} className={`${CELL} text-right`}>
          {delivery.counts && name === "rejected" && (delivery.counts.rejected ?? 0) > 0 ? (
            <Link className="font-medium text-plum underline" to={`${home}/rejected`}>
              {count(delivery.counts.rejected ?? 0)}
            </Link>
          ) : (
            delivery.counts && count(delivery.counts[name] ?? 0)
          )}
        </td>
      ))}
    </tr>
  );
}

/** All deliveries with counts that add up: rows = new + changed + unchanged + rejected. */
export function DeliveryTable({ slug }: { slug: string }) {
  return (
    <Faces query={useDeliveries(slug)}>
      {(deliveries) =>
        deliveries.length === 0 ? (
          <Empty title="Nothing was brought in yet.">
            <p>
              Drop the files of your sources on the left. Each becomes a delivery that you check before it is loaded.
            </p>
          </Empty>
        ) : (
          <table className="w-full text-sm">
            <thead>
              <tr>
                {TITLES.map((title, place) => (
                  <th key={title} scope="col" className={`${HEAD} ${place > 3 ? "text-right" : ""}`}>
                    {title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {deliveries.map((delivery) => (
                <Row key={delivery.id} slug={slug} delivery={delivery} />
              ))}
            </tbody>
          </table>
        )
      }
    </Faces>
  );
}

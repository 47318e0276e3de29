import { useState } from "react";
import { Link } from "react-router";
import { count, counted, moment } from "../../domain/format";
import { Button, CELL, Empty, Faces, HEAD, notify } from "../../ui";
import { OutcomeCounts } from "./OutcomeCounts";
import { type Delivery, useDeliveries, useTakeBack } from "./queries";
import { TakeBackDialog } from "./TakeBackDialog";

const COUNTS = ["rows", "new", "changed", "unchanged", "rejected", "gone"] as const;
const TITLES = ["Source", "File", "When", "Rows", "New", "Changed", "Unchanged", "Rejected", "Gone", ""];

function Change({ slug, delivery }: { slug: string; delivery: Delivery }) {
  const [asking, setAsking] = useState(false);
  const change = useTakeBack(slug, delivery.id);
  if (delivery.status === "taken back")
    return (
      <Button
        needs="bring in"
        look="quiet"
        small
        className="px-0"
        disabled={change.isPending}
        aria-label={`Put ${delivery.file_name} back`}
        onClick={() => change.mutate("put-back", { onError: (error) => notify(error, true) })}
      >
        Put back
      </Button>
    );
  if (delivery.status !== "loaded") return null;
  return (
    <>
      <Button
        needs="bring in"
        look="quiet"
        small
        className="px-0"
        aria-label={`Take ${delivery.file_name} back`}
        onClick={() => setAsking(true)}
      >
        Take back
      </Button>
      {asking && <TakeBackDialog slug={slug} delivery={delivery} onClose={() => setAsking(false)} />}
    </>
  );
}

function FileCell({ home, delivery }: { home: string; delivery: Delivery }) {
  return (
    <td className={CELL}>
      {delivery.status === "draft" ? (
        <Link className="font-medium text-plum underline" to={home}>
          {delivery.file_name}: check and load
        </Link>
      ) : (
        delivery.file_name
      )}
      {["discarded", "taken back"].includes(delivery.status) && <span className="text-soft"> ({delivery.status})</span>}
      <span className="block text-xs text-soft">
        {delivery.format}
        {delivery.delivers === "changes" && ", changes only"}
      </span>
      {(delivery.counts?.erased ?? 0) > 0 && (
        <span className="block text-xs text-soft">
          {`${counted(delivery.counts?.erased ?? 0, "row")} left out: erased on request`}
        </span>
      )}
      {delivery.status === "loaded" && delivery.outcomes && <OutcomeCounts home={home} counts={delivery.outcomes} />}
    </td>
  );
}

function Row({ slug, delivery }: { slug: string; delivery: Delivery }) {
  const home = `/r/${slug}/bring-in/${delivery.id}`;
  return (
    <tr>
      <td className={`${CELL} font-medium`}>{delivery.source}</td>
      <FileCell home={home} delivery={delivery} />
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
      <td className={`${CELL} text-right whitespace-nowrap`}>
        <Change slug={slug} delivery={delivery} />
      </td>
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
                  <th key={title} scope="col" className={`${HEAD} ${place > 2 ? "text-right" : ""}`}>
                    {title || <span className="sr-only">Change</span>}
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

import { Link } from "react-router";
import { isActive, type Job, useJobs } from "../../../api/jobs";
import { count, counted, nameOf } from "../../../domain/format";
import { Button, CELL, Heads, Loading, Modal } from "../../../ui";
import type { Recount } from "./queries";

function Found({ slug, recount }: { slug: string; recount: Recount }) {
  if (recount.changes.length === 0)
    return <p className="text-sm">No verdict would change: the same pairs are the same, the same are in doubt.</p>;
  return (
    <>
      <p className="text-sm">
        {count(recount.records)} records in {counted(recount.clusters_before, "cluster")} would be in{" "}
        {count(recount.clusters_after)}.
      </p>
      <ul className="my-2 list-disc pl-5 text-sm">
        {recount.changes.map(({ was, becomes, pairs }) => (
          <li key={`${was} ${becomes}`}>
            {counted(pairs, "pair")}: {was} → <strong className="font-semibold">{becomes}</strong>
          </li>
        ))}
      </ul>
      <div className="max-h-[45vh] overflow-auto" tabIndex={0} role="region" aria-label="Pairs that change">
        <table className="w-full text-sm">
          <thead>
            <Heads titles={["One record", "The other", "Verdict"]} />
          </thead>
          <tbody>
            {recount.sample.map((pair) => (
              <tr key={`${pair.left_id} ${pair.right_id}`}>
                <td className={`${CELL} text-marine`}>{nameOf(pair.left)}</td>
                <td className={`${CELL} text-rust`}>{nameOf(pair.right)}</td>
                <td className={CELL}>
                  {pair.was === "different" ? (
                    `${pair.was} → ${pair.becomes}`
                  ) : (
                    <Link className="text-plum underline" to={`/r/${slug}/review/${pair.left_id}/${pair.right_id}`}>
                      {pair.was} → {pair.becomes}
                    </Link>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** Which verdicts the changed steps would change, once the work in the background has counted it. */
export function RecountDialog({ slug, asked, onClose }: { slug: string; asked: Job; onClose: () => void }) {
  const job = useJobs().data?.jobs.find(({ id }) => id === asked.id) ?? asked;
  return (
    <Modal title="What these steps would change" wide onClose={onClose}>
      {isActive(job) ? (
        <>
          <p className="text-sm text-soft">
            The match is run twice, with the steps in force and with these: {job.stage || "waits for its turn"}.
          </p>
          <Loading rows={3} />
        </>
      ) : job.status === "done" ? (
        <Found slug={slug} recount={job.result as unknown as Recount} />
      ) : (
        <p role="alert" className="text-sm">
          {job.status}: {job.message}
        </p>
      )}
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Modal>
  );
}

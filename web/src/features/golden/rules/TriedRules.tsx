import { Link } from "react-router";
import { isActive, type Job, useJobs } from "../../../api/jobs";
import { count, counted, share } from "../../../domain/format";
import { CELL, Faces, Heads, Loading } from "../../../ui";
import { type Tried, useTried } from "./queries";

function Field({ slug, field }: { slug: string; field: Tried["fields"][number] }) {
  return (
    <section aria-label={field.label} className="mt-3">
      <h3 className="text-sm font-semibold">
        {field.label}: {counted(field.changed, "value")} would change
      </h3>
      <table className="mt-1 w-full table-fixed text-sm">
        <thead>
          <Heads titles={["Golden record", "Now", "Then"]} />
        </thead>
        <tbody>
          {field.samples.map((sample) => (
            <tr key={sample.key}>
              <td className={`${CELL} w-28 font-mono`}>
                <Link className="text-plum underline" to={`/r/${slug}/golden/${sample.key}`}>
                  {sample.key}
                </Link>
              </td>
              <td className={`${CELL} text-soft break-words`}>{sample.before || "–"}</td>
              <td className={`${CELL} font-medium break-words`}>{sample.after || "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Found({ slug, tried }: { slug: string; tried: Tried }) {
  if (tried.changed === 0) return <p className="text-sm">No golden value would change.</p>;
  return (
    <>
      <p className="text-sm">
        <strong className="font-semibold">{count(tried.changed)}</strong> of {counted(tried.golden, "golden record")}{" "}
        would change ({share(tried.changed, tried.golden)}). Pinned values stay.
      </p>
      {tried.fields.map((field) => (
        <Field key={field.field} slug={slug} field={field} />
      ))}
    </>
  );
}

/** What came of a trial: how many golden values would change, per field, with examples to walk to. */
export function TriedRules({ slug, asked }: { slug: string; asked: Job }) {
  const job = useJobs().data?.jobs.find(({ id }) => id === asked.id) ?? asked;
  const tried = useTried(slug, asked.id, job.status === "done");
  if (isActive(job))
    return (
      <>
        <p className="text-sm text-soft">
          The values of all golden records are computed with these rules beside those in force:{" "}
          {job.total > 0 ? `${count(job.done)} of ${count(job.total)}` : "waits for its turn"}.
        </p>
        <Loading rows={4} />
      </>
    );
  if (job.status !== "done")
    return (
      <p role="alert" className="text-sm">
        {job.status}: {job.message}
      </p>
    );
  return <Faces query={tried}>{(data) => <Found slug={slug} tried={data} />}</Faces>;
}

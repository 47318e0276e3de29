import { isActive, type Job, useJobs } from "../../api/jobs";
import { counted } from "../../domain/format";

/** What came of going through the chain that was asked for last. */
export function Verified({ slug, asked }: { slug: string; asked: Job | undefined }) {
  const job = useJobs().data?.jobs.find(({ id, register_slug }) => id === asked?.id && register_slug === slug);
  if (!job) return null;
  if (isActive(job)) return <p className="mt-2 text-sm text-soft">The chain is gone through…</p>;
  const {
    entries = 0,
    wrong = 0,
    problems = [],
  } = (job.result ?? {}) as {
    entries?: number;
    wrong?: number;
    problems?: string[];
  };
  if (job.status !== "done") return <p className="mt-2 text-sm text-rust">{job.message}</p>;
  return (
    <div role="status" className={`mt-2 text-sm ${wrong ? "text-rust" : "text-plum"}`}>
      {wrong === 0
        ? `The chain holds: ${counted(entries, "entry", "entries")}, none changed, left out or put in.`
        : `${counted(wrong, "entry does", "entries do")} not fit:`}
      {wrong > 0 && (
        <ul className="list-disc pl-5">
          {problems.map((problem) => (
            <li key={problem}>{problem}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

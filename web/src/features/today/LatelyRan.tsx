import { isActive, useJobs } from "../../api/jobs";
import type { Register } from "../../api/registers";
import { moment } from "../../domain/format";
import { outcomeOf } from "../../domain/jobs";
import { CELL, Heads } from "../../ui";

/** What ran lately in the background, and how it ended. */
export function LatelyRan({ registers }: { registers: readonly Register[] }) {
  const jobs = useJobs().data?.jobs ?? [];
  const names = new Map(registers.map((register) => [register.slug, register.name]));
  if (jobs.length === 0) return null;
  return (
    <section aria-label="What ran lately" className="mt-4">
      <h2 className="font-semibold">What ran lately</h2>
      <table className="mt-1 w-full text-sm">
        <thead>
          <Heads titles={["When", "Register", "Work", "Ended", "What it did"]} />
        </thead>
        <tbody>
          {jobs.slice(0, 6).map((job) => (
            <tr key={job.id}>
              <td className={`${CELL} whitespace-nowrap text-soft`}>{moment(job.created_at)}</td>
              <td className={CELL}>{names.get(job.register_slug)}</td>
              <td className={CELL}>{job.title}</td>
              <td className={CELL}>{isActive(job) ? "under way" : job.status}</td>
              <td className={CELL}>{isActive(job) ? job.stage : outcomeOf(job)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

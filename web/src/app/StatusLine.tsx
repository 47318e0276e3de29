import { isActive, type Job, useCancelJob, useJobs } from "../api/jobs";
import { count, duration, moment } from "../domain/format";
import { outcomeOf } from "../domain/jobs";
import { Button, notify } from "../ui";

function progressOf(job: Job): string {
  if (job.status === "queued") return "waits for its turn";
  if (job.total === 0) return job.stage || "begins";
  const rate = job.stage_s > 1 ? job.done / job.stage_s : 0;
  const pace = rate > 0 ? `, ${count(rate)} a second, about ${duration((job.total - job.done) / rate)} left` : "";
  return `${job.stage} ${Math.floor((100 * job.done) / job.total)} %${pace}`;
}

function Running({ job }: { job: Job }) {
  const cancel = useCancelJob();
  return (
    <div className="flex items-center gap-3" data-testid="running-job">
      <span className="font-medium">{job.title}</span>
      <progress
        className="h-1.5 w-40 accent-plum"
        aria-label={job.title}
        {...(job.total > 0 ? { value: job.done, max: job.total } : {})}
      />
      <span className="text-soft">{progressOf(job)}</span>
      <Button look="quiet" small onClick={() => cancel.mutate(job.id, { onError: (error) => notify(error, true) })}>
        Cancel
      </Button>
    </div>
  );
}

/** The thin line at the bottom: running work with its progress, or how the last work ended. */
export function StatusLine({ answers }: { answers: boolean }) {
  const jobs = useJobs().data?.jobs ?? [];
  const running = jobs.filter(isActive).reverse();
  const last = jobs.find((job) => !isActive(job));
  if (!answers)
    return (
      <p role="alert" className="flex h-7 items-center border-t border-rust bg-rust-wash px-4 text-xs">
        Odd Pair does not answer. What you see may be out of date; this page goes on by itself as soon as it is back.
      </p>
    );
  return (
    <section
      aria-label="Work in the background"
      className="flex h-7 items-center gap-6 overflow-hidden print:hidden border-t border-line bg-sunk px-4 text-xs whitespace-nowrap"
    >
      {running.length > 0
        ? running.map((job) => <Running key={job.id} job={job} />)
        : last && (
            <p className={last.status === "failed" ? "text-rust" : "text-soft"}>
              {last.title}: {last.status}
              {last.ended_at && ` at ${moment(last.ended_at)}`}
              {outcomeOf(last) && `, ${outcomeOf(last)}`}
            </p>
          )}
      {jobs.length === 0 && <p className="text-soft">No work in the background yet.</p>}
    </section>
  );
}

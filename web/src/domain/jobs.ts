import type { Job } from "../api/jobs";
import { count } from "./format";

/** Counts are told in the order of the table of deliveries; others come first, as they are. */
const ORDER = ["rows", "new", "changed", "unchanged", "rejected", "gone"];

/** What a job that ended did, in words. */
export function outcomeOf(job: Job): string {
  if (job.status !== "done") return job.message;
  const figures = Object.entries(job.result ?? {})
    .filter(([name, value]) => name !== "run_id" && typeof value === "number")
    .sort(([a], [b]) => ORDER.indexOf(a) - ORDER.indexOf(b));
  // What a merge did not do need not be told; that a delivery brought nothing new has to be.
  const told = job.kind === "merge" ? figures.filter(([, value]) => Number(value) > 0) : figures;
  if (job.kind === "merge" && told.length === 0) return "nothing to do";
  return told.map(([name, value]) => `${name.replaceAll("_", " ")} ${count(Number(value))}`).join(", ");
}

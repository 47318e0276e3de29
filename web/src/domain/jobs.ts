import type { Job } from "../api/jobs";
import { count } from "./format";

/** Counts are told in the order of the table of deliveries; others come first, as they are. */
const ORDER = ["rows", "new", "changed", "unchanged", "rejected", "gone"];

/** What of a recognition a person wants to know; the rest is how it was done. */
const RECOGNISED = ["changed", "made", "grown", "merged", "split"];

/** What a job that ended did, in words. */
export function outcomeOf(job: Job): string {
  if (job.status !== "done") return job.message;
  const figures = Object.entries(job.result ?? {})
    .filter(([name, value]) => name !== "run_id" && typeof value === "number")
    .sort(([a], [b]) => ORDER.indexOf(a) - ORDER.indexOf(b));
  // What a merge did not do need not be told; that a delivery brought nothing new has to be.
  const merges = job.kind === "merge" || job.kind === "recognise";
  const wanted = job.kind === "recognise" ? figures.filter(([name]) => RECOGNISED.includes(name)) : figures;
  const told = merges ? wanted.filter(([, value]) => Number(value) > 0) : wanted;
  if (merges && told.length === 0) return "nothing to do";
  return told.map(([name, value]) => `${name.replaceAll("_", " ")} ${count(Number(value))}`).join(", ");
}

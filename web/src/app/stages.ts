import type { Register } from "../api/registers";
import type { Permission } from "../api/who";
import { count, counted } from "../domain/format";

export interface Stage {
  path: string;
  label: string;
  /** Shown to those who may do this. */
  needs: Permission;
  /** What waits there, short, and the same in words. */
  waits: (register: Register) => { figure: string; words: string };
}

/** The stages in the order of the work. */
export const STAGES: readonly Stage[] = [
  {
    path: "bring-in",
    needs: "see",
    label: "Bring in",
    waits: ({ counts }) =>
      counts.drafts > 0
        ? {
            figure: counted(counts.drafts, "draft"),
            words: `${counted(counts.drafts, "delivery", "deliveries")} to be checked`,
          }
        : { figure: count(counts.deliveries), words: counted(counts.deliveries, "delivery", "deliveries") },
  },
  {
    path: "tidy",
    needs: "see",
    label: "Tidy",
    waits: ({ counts }) => ({ figure: count(counts.records), words: counted(counts.records, "record") }),
  },
  {
    path: "plan",
    needs: "see",
    label: "Plan",
    waits: ({ run_due, run_id }) =>
      run_due.length > 0
        ? { figure: "run due", words: `a run is due: ${run_due.join(", ")}` }
        : run_id === null
          ? { figure: "nothing yet", words: "nothing to match yet" }
          : { figure: "in step", words: "the latest run shows the present state" },
  },
  {
    path: "review",
    needs: "see",
    label: "Review",
    waits: ({ counts }) => ({
      figure: count(counts.unsure_waiting),
      words: `${counted(counts.unsure_waiting, "pair")} in doubt`,
    }),
  },
  {
    path: "golden",
    needs: "look up",
    label: "Golden",
    waits: ({ counts }) =>
      counts.records_without_golden > 0 && counts.golden > 0
        ? {
            figure: `${count(counts.golden)}, ${count(counts.records_without_golden)} to merge`,
            words: `${counted(counts.golden, "golden record")}, ${counted(counts.records_without_golden, "record")} without one`,
          }
        : { figure: count(counts.golden), words: counted(counts.golden, "golden record") },
  },
  {
    path: "send-out",
    needs: "send out",
    label: "Send out",
    waits: ({ counts }) => ({
      figure: counts.golden > 0 ? "ready" : "nothing yet",
      words: counts.golden > 0 ? "ready" : "nothing to send yet",
    }),
  },
];

/** What can be done beside the line of work. */
export const WAYS = [
  {
    path: "enter",
    needs: "enter",
    label: "Enter a record",
    hint: "search first, then use what is there, or create one",
  },
  { path: "counterparts", needs: "see", label: "Counterparts", hint: "look the rows of a file up in this register" },
  { path: "findings", needs: "see", label: "Findings", hint: "what it shares with another register and should not" },
  { path: "bridge", needs: "see", label: "Bridge", hint: "the ids of one source against those of another" },
  { path: "journal", needs: "see", label: "Journal", hint: "every act, by whom, when and why" },
  { path: "sign-off", needs: "see", label: "Sign-off", hint: "what was decided and waits for a second yes" },
  {
    path: "watch",
    needs: "see",
    label: "How the work goes",
    hint: "what is decided, how people agree, what is overdue",
  },
] as const;

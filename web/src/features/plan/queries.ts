import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";

export type Plan = Schemas["PlanOut"];

/** Where the source `other` writes `meant`, `source` writes `written`. */
export interface WordHabit {
  source: string;
  written: string;
  other: string;
  meant: string;
  times: number;
}

/** What a pass of a run tells of itself. */
export interface PassReport {
  /** Runs of before had one pass without a title, and did not count what came of the records. */
  title?: string;
  counts?: Record<string, number>;
  limits?: { same: number; unsure: number };
  histogram: { from: number; counts: number[] };
  contest?: {
    without_duplicates: string[];
    /** Runs of before do not tell them. */
    few_duplicates?: string[];
    partners: { one: string; other: string; expected: number }[];
    learned_from: number;
  } | null;
  /** Words that sources write differently as a habit; runs of before do not tell them. */
  wording?: WordHabit[];
  keys: { key: string; blocks: number; largest_block: number; pairs_proposed: number; pairs_first_found: number }[];
  left_out: { key: string; value: string; records: number }[];
}

/** The report of a run as the server keeps it. */
export interface RunReport {
  plan_version: number;
  records: number;
  compared: number;
  bands: { same: number; unsure: number; different: number; vetoed: number };
  pairs_same: number;
  pairs_unsure: number;
  clusters: number;
  passes?: PassReport[];
  ignored_decisions: number;
  seconds: Record<string, number>;
}

export function usePlan(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "plan"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/plan", { params: { path: { slug } } })),
  });
}

/** The passes of a run; runs of before told their only one in the report itself. */
export function passesOf(report: RunReport): PassReport[] {
  return report.passes ?? [report as unknown as PassReport];
}

export type Run = Schemas["RunOut"];

/** The runs that are kept: the standing one, and trials. */
export function useRuns(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "runs"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/runs", { params: { path: { slug } } })),
  });
}

export function useStartTrial(slug: string) {
  return useMutation({
    mutationFn: (body: Schemas["TrialIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/trials", { params: { path: { slug } }, body })),
  });
}

export function useClearRun(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (run_id: number) =>
      unwrap(client.DELETE("/api/registers/{slug}/runs/{run_id}", { params: { path: { slug, run_id } } })),
    onSuccess: refresh,
  });
}

export function useSavePlan(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: { yaml: string; seen_version: number; note: string }) =>
      unwrap(client.PUT("/api/registers/{slug}/plan", { params: { path: { slug } }, body })),
    onSuccess: refresh,
  });
}

export function useEstimate(slug: string) {
  return useMutation({
    mutationFn: (yaml: string) =>
      unwrap(client.POST("/api/registers/{slug}/plan/estimate", { params: { path: { slug } }, body: { yaml } })),
  });
}

export function useStartRun(slug: string) {
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/registers/{slug}/runs", { params: { path: { slug } } })),
  });
}

/** Makes a swap list of words that sources write differently, or adds them to the one made before. */
export function useListOfWords(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (habits: readonly WordHabit[]) => {
      const name = `words of ${slug}`.slice(0, 60);
      const words = habits.map(({ written, meant }): [string, string] => [written, meant]);
      const { tables } = await unwrap(client.GET("/api/tables"));
      if (!tables.some((table) => table.name === name)) {
        const entries = [...new Map(words)];
        return unwrap(client.POST("/api/tables", { body: { name, kind: "swap list", ready: "", entries } }));
      }
      const params = { path: { name } };
      const known = await unwrap(client.GET("/api/tables/{name}", { params }));
      const before = new Map(known.entries as [string, string][]);
      if (words.every(([written]) => before.has(written))) return known;
      // What a person made of a word stays.
      const entries = [...new Map([...words, ...before])];
      const body = { entries, seen_version: known.version, note: "words learned in a run" };
      return unwrap(client.PUT("/api/tables/{name}", { params, body }));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.tables }),
  });
}

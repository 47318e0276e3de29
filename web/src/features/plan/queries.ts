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

/** The report of a run as the server keeps it. */
export interface RunReport {
  plan_version: number;
  records: number;
  compared: number;
  bands: { same: number; unsure: number; different: number; vetoed: number };
  pairs_same: number;
  pairs_unsure: number;
  clusters: number;
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
  ignored_decisions: number;
  seconds: Record<string, number>;
}

export function usePlan(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "plan"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/plan", { params: { path: { slug } } })),
  });
}

export function useRun(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "run"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/run", { params: { path: { slug } } })),
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

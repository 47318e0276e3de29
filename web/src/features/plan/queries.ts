import { useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";

export type Plan = Schemas["PlanOut"];

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

import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

export type Bench = Schemas["BenchOut"];
export type Tried = Schemas["TriedPlanOut"];
export type BorderPair = Schemas["BorderPairOut"];
export type Shown = "all" | "gained" | "lost";

/** What is tried: a plan, which of its passes, against which version (0: the one in force). */
export interface Trying {
  yaml: string;
  pass: number;
  against: number;
}

const STILL_MS = 500;

/** How the bench is; looked at again and again as long as it works. */
export function useBench(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "bench"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/bench", { params: { path: { slug } } })),
    refetchInterval: (query) => (query.state.data?.running || query.state.error ? STILL_MS : false),
  });
}

/** Begin a whole match of a plan on the bench. */
export function useSettle(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { yaml: string; hold: boolean }) =>
      unwrap(client.POST("/api/registers/{slug}/bench/settled", { params: { path: { slug } }, body })),
    onSettled: () => queries.invalidateQueries({ queryKey: keys.of(slug, "bench") }),
  });
}

export function useCancelSettling(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/registers/{slug}/bench/settled", { params: { path: { slug } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: keys.of(slug, "bench") }),
  });
}

/** What a plan does to the held pairs; `stamp` changes when the bench has settled something. */
export function useTried(slug: string, trying: Trying, stamp: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "tried", trying.yaml, trying.pass, trying.against, stamp),
    queryFn: () =>
      unwrap(client.POST("/api/registers/{slug}/bench/tried", { params: { path: { slug } }, body: trying })),
    enabled,
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 20_000,
  });
}

/** Which pairs are walked along. */
export interface Walk {
  limit: number;
  shown: Shown;
  decided_by: string;
  condition: string;
}

export function useBorder(slug: string, trying: Trying, walk: Walk, stamp: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "border", JSON.stringify([trying, walk]), stamp),
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/bench/pairs", {
          params: { path: { slug } },
          body: { ...trying, ...walk, many: 40 },
        }),
      ),
    enabled,
    placeholderData: keepPreviousData,
  });
}

export function useDecideAtBorder(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (pair: { left: number; right: number; seen: number | null; verdict: "same" | "different" }) =>
      unwrap(
        client.POST("/api/registers/{slug}/decisions", {
          params: { path: { slug } },
          body: {
            left_id: pair.left,
            right_id: pair.right,
            verdict: pair.verdict,
            remark: "decided on the plan bench",
            asked: "",
            desk: "",
            seen_decision: pair.seen,
          },
        }),
      ),
    onSettled: () => {
      for (const told of ["border", "measured", "lesson"])
        void queries.invalidateQueries({ queryKey: keys.of(slug, told) });
      void queries.invalidateQueries({ queryKey: keys.registers });
    },
  });
}

export function useClusterChanges(slug: string, trying: Trying, stamp: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "cluster changes", trying.yaml, trying.against, stamp),
    queryFn: () =>
      unwrap(client.POST("/api/registers/{slug}/bench/clusters", { params: { path: { slug } }, body: trying })),
    enabled,
  });
}

import {
  infiniteQueryOptions,
  type QueryClient,
  queryOptions,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect } from "react";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { deskId } from "../../api/me";
import type { QueueState } from "./queueState";

export type Queue = Schemas["QueueOut"];
export type Queued = Schemas["QueuedOut"];
export type Pair = Schemas["PairOut"];
export type Decision = Schemas["DecisionOut"];
export type Verdict = Schemas["DecisionIn"]["verdict"];
export type Contradiction = Schemas["ContradictionOut"];

const AHEAD = 4;
const PAGE = 200;

/** The queue, page by page: each begins behind the last doubt of the one before. */
export function queueOptions(slug: string, state: QueueState) {
  return infiniteQueryOptions({
    queryKey: keys.of(slug, "queue", JSON.stringify(state)),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/review", {
          params: { path: { slug }, query: { ...state, desk: deskId(), after: pageParam, limit: PAGE } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page: Queue) => page.behind || undefined,
  });
}

/** The kinds of doubts that wait, with how many there are of each. */
export function useKinds(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "kinds"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/review/kinds", { params: { path: { slug } } })),
  });
}

export function usePeople(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "people"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/review/people", { params: { path: { slug } } })),
  });
}

/** What this person decided since the day began, and how that agrees with second looks. */
export function useProgress(slug: string) {
  const since = new Date(new Date().setHours(0, 0, 0, 0)).toISOString();
  return useQuery({
    queryKey: keys.of(slug, "progress"),
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/review/progress", { params: { path: { slug }, query: { since } } })),
  });
}

export function useAgreement(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "agreement"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/second-looks/agreement", { params: { path: { slug } } })),
  });
}

export function pairOptions(slug: string, leftId: number, rightId: number) {
  return queryOptions({
    queryKey: keys.of(slug, "pair", leftId, rightId),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/pairs/{left_id}/{right_id}", {
          params: { path: { slug, left_id: leftId, right_id: rightId } },
        }),
      ),
  });
}

export function usePair(slug: string, leftId: number, rightId: number) {
  return useQuery({ ...pairOptions(slug, leftId, rightId), enabled: leftId > 0 && rightId > 0 });
}

export function contextOptions(slug: string, leftId: number, rightId: number) {
  return queryOptions({
    queryKey: keys.of(slug, "context", leftId, rightId),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/pairs/{left_id}/{right_id}/context", {
          params: { path: { slug, left_id: leftId, right_id: rightId } },
        }),
      ),
  });
}

export function neighboursOptions(slug: string, leftId: number, rightId: number) {
  return queryOptions({
    queryKey: keys.of(slug, "neighbours", leftId, rightId),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/pairs/{left_id}/{right_id}/neighbours", {
          params: { path: { slug, left_id: leftId, right_id: rightId } },
        }),
      ),
  });
}

/** Fetch the next pairs before they are asked for, so that they are there at once. */
export function usePrefetch(slug: string, queue: readonly Queued[], current: number) {
  const queries = useQueryClient();
  useEffect(() => {
    for (const doubt of queue.slice(Math.max(current, 0), current + 1 + AHEAD)) {
      if (doubt.what === "pair") void queries.prefetchQuery(pairOptions(slug, doubt.left_id, doubt.right_id));
    }
  }, [queries, slug, queue, current]);
}

/** What a decision changes for those who look: the pair, what stands around it, the counts. */
export function refreshDecided(queries: QueryClient, slug: string, leftId: number, rightId: number) {
  for (const about of ["pair", "context"])
    void queries.invalidateQueries({ queryKey: keys.of(slug, about, leftId, rightId) });
  for (const about of ["decisions", "kinds", "progress", "cluster"])
    void queries.invalidateQueries({ queryKey: keys.of(slug, about) });
  void queries.invalidateQueries({ queryKey: keys.registers });
}

export type DecisionIn = Omit<Schemas["DecisionIn"], "desk">;

export function useDecide(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: DecisionIn) =>
      unwrap(
        client.POST("/api/registers/{slug}/decisions", {
          params: { path: { slug } },
          body: { ...body, desk: deskId() },
        }),
      ),
    onSuccess: (decision) => refreshDecided(queries, slug, decision.left_id, decision.right_id),
    onError: () => void queries.invalidateQueries({ queryKey: keys.register(slug) }),
  });
}

export function useWithdraw(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (decisionId: number) =>
      unwrap(client.POST("/api/decisions/{decision_id}/withdraw", { params: { path: { decision_id: decisionId } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.register(slug) }),
  });
}

export function useTakeBack(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/registers/{slug}/review/take-back", { params: { path: { slug } } })),
    onSuccess: (taken) => {
      refreshDecided(queries, slug, taken.left_id, taken.right_id);
      void queries.invalidateQueries({ queryKey: keys.of(slug, "queue") });
    },
  });
}

/** Decisions of the register that contradict each other, where they are asked for. */
export function useContradictions(slug: string, wanted: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "contradictions"),
    enabled: wanted,
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/contradictions", { params: { path: { slug } } })),
  });
}

export type Disagreement = Schemas["DisagreementOut"];

/** Standing decisions that a second look disagrees with. */
export function useDisagreements(slug: string, wanted: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "disagreements"),
    enabled: wanted,
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/second-looks/disagreements", { params: { path: { slug } } })),
  });
}

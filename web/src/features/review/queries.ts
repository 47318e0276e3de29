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

export type Queue = Schemas["QueueOut"];
export type QueuedPair = Schemas["QueuedPairOut"];
export type Pair = Schemas["PairOut"];
export type Decision = Schemas["DecisionOut"];
export type Verdict = Schemas["DecisionIn"]["verdict"];
export type Order = "doubt" | "score" | "cluster";

const AHEAD = 4;

const PAGE = 200;

/** The queue, page by page: each begins behind the last pair of the one before. */
export function queueOptions(slug: string, order: Order, search: string, kind: string) {
  return infiniteQueryOptions({
    queryKey: keys.of(slug, "queue", order, search, kind),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/review", {
          params: { path: { slug }, query: { order, search, kind, after: pageParam, limit: PAGE } },
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

function pairOptions(slug: string, leftId: number, rightId: number) {
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

/** Fetch the next pairs before they are asked for, so that they are there at once. */
export function usePrefetch(slug: string, queue: readonly QueuedPair[], current: number) {
  const queries = useQueryClient();
  useEffect(() => {
    for (const pair of queue.slice(Math.max(current, 0), current + 1 + AHEAD)) {
      void queries.prefetchQuery(pairOptions(slug, pair.left_id, pair.right_id));
    }
  }, [queries, slug, queue, current]);
}

function refreshDecided(queries: QueryClient, slug: string, decision: Decision) {
  void queries.invalidateQueries({ queryKey: keys.of(slug, "pair", decision.left_id, decision.right_id) });
  void queries.invalidateQueries({ queryKey: keys.of(slug, "decisions") });
  void queries.invalidateQueries({ queryKey: keys.of(slug, "kinds") });
  void queries.invalidateQueries({ queryKey: keys.registers });
}

export function useDecide(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: {
      left_id: number;
      right_id: number;
      verdict: Verdict;
      remark: string;
      seen_decision: number | null;
    }) => unwrap(client.POST("/api/registers/{slug}/decisions", { params: { path: { slug } }, body })),
    onSuccess: (decision) => refreshDecided(queries, slug, decision),
    onError: () => void queries.invalidateQueries({ queryKey: keys.register(slug) }),
  });
}

export function useWithdraw(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (decisionId: number) =>
      unwrap(client.POST("/api/decisions/{decision_id}/withdraw", { params: { path: { decision_id: decisionId } } })),
    onSuccess: (decision) => {
      refreshDecided(queries, slug, decision);
      void queries.invalidateQueries({ queryKey: keys.of(slug, "queue") });
    },
  });
}

/** The latest decisions of this person; the newest that stands is what undo takes back, never that of somebody else. */
export function ownDecisionsOptions(slug: string) {
  return queryOptions({
    staleTime: 0,
    queryKey: keys.of(slug, "decisions"),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/decisions", { params: { path: { slug }, query: { limit: 50, mine: true } } }),
      ),
  });
}

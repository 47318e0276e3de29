import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";

export type BridgeRow = Schemas["BridgeRowOut"];
export type BridgeState = BridgeRow["state"];
export const STATES = ["known", "proposed", "several", "in doubt", "none"] as const satisfies readonly BridgeState[];
export interface Between {
  one: string;
  other: string;
}

const isWhole = ({ one, other }: Between) => one !== "" && other !== "" && one !== other;

export function useBridge(slug: string, between: Between, state: BridgeState | "") {
  return useInfiniteQuery({
    queryKey: keys.of(slug, "bridge", between.one, between.other, state),
    enabled: isWhole(between),
    initialPageParam: "",
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/bridge", {
          params: { path: { slug }, query: { ...between, state, cursor: pageParam, limit: 100 } },
        }),
      ),
    getNextPageParam: ({ behind }) => behind || undefined,
    placeholderData: keepWithin(slug),
  });
}

export function useBridgeCounts(slug: string, between: Between) {
  return useQuery({
    queryKey: keys.of(slug, "bridge-counts", between.one, between.other),
    enabled: isWhole(between),
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/bridge/counts", { params: { path: { slug }, query: between } })),
    placeholderData: keepWithin(slug),
  });
}

/** Records of one source that hold some words. */
export function useRecordsOf(slug: string, source: string, search: string) {
  return useQuery({
    queryKey: keys.of(slug, "find", source, search),
    enabled: search.trim().length >= 2,
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/records", {
          params: { path: { slug }, query: { search, source, limit: 8 } },
        }),
      ),
  });
}

/** Decide that two records are the same or different, as at the review desk; the bridge follows at once. */
export function useMap(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ pair: [one, other], verdict }: { pair: readonly [number, number]; verdict: "same" | "different" }) =>
      unwrap(
        client.POST("/api/registers/{slug}/decisions", {
          params: { path: { slug } },
          body: {
            left_id: Math.min(one, other),
            right_id: Math.max(one, other),
            verdict,
            remark: "mapped at the bridge",
            seen_decision: null,
            until: null,
            asked: "",
            desk: "",
          },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: keys.register(slug) });
    },
  });
}

import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";

export type FindingsPlan = Schemas["FindingsPlanOut"];
export type Finding = Schemas["FindingOut"];
export type State = Finding["state"];
export const STATES = ["open", "of interest", "explained", "not a finding"] as const satisfies readonly State[];
const PAGE = 100;

const path = (slug: string, name: string) => ({ path: { slug, name } });

export function usePlans(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "findings"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/findings", { params: { path: { slug } } })),
  });
}

export function useFindingsPlan(slug: string, name: string) {
  return useQuery({
    queryKey: keys.of(slug, "findings", name),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/findings/{name}", { params: path(slug, name) })),
  });
}

export function useFindings(slug: string, name: string, state: State | "", limit = PAGE) {
  return useInfiniteQuery({
    queryKey: keys.of(slug, "findings", name, "rows", state, limit),
    initialPageParam: "",
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/findings/{name}/rows", {
          params: { ...path(slug, name), query: { state, cursor: pageParam, limit } },
        }),
      ),
    getNextPageParam: ({ behind }) => behind || undefined,
    placeholderData: keepWithin(slug),
  });
}

function useRefreshFindings(slug: string) {
  const queries = useQueryClient();
  return () => void queries.invalidateQueries({ queryKey: keys.of(slug, "findings") });
}

export function useMakePlan(slug: string) {
  const refresh = useRefreshFindings(slug);
  return useMutation({
    mutationFn: (body: Schemas["NewFindingsPlan"]) =>
      unwrap(client.POST("/api/registers/{slug}/findings", { params: { path: { slug } }, body })),
    onSuccess: refresh,
  });
}

export function useChangePlan(slug: string, name: string) {
  const refresh = useRefreshFindings(slug);
  return useMutation({
    mutationFn: (yaml: string) =>
      unwrap(client.PUT("/api/registers/{slug}/findings/{name}", { params: path(slug, name), body: { yaml } })),
    onSuccess: refresh,
  });
}

export function useForgetPlan(slug: string, name: string) {
  const refresh = useRefreshFindings(slug);
  return useMutation({
    mutationFn: () => unwrap(client.DELETE("/api/registers/{slug}/findings/{name}", { params: path(slug, name) })),
    onSuccess: refresh,
  });
}

export function useRunPlan(slug: string, name: string) {
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/registers/{slug}/findings/{name}/run", { params: path(slug, name) })),
  });
}

export function useSayOfFinding(slug: string, name: string) {
  const refresh = useRefreshFindings(slug);
  return useMutation({
    mutationFn: ({ place, ...body }: { place: number; state: State; remark: string }) =>
      unwrap(
        client.POST("/api/registers/{slug}/findings/{name}/rows/{number}", {
          params: { path: { slug, name, number: place + 1 } },
          body,
        }),
      ),
    onSuccess: refresh,
  });
}

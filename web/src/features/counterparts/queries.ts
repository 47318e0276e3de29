import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";
import { sendFile } from "../../api/upload";

export type CounterpartList = Schemas["CounterpartListOut"];
export type Row = Schemas["CounterpartRowOut"];
export type Candidate = Schemas["CandidateOut"];
export type Counterpart = Schemas["CounterpartOut"];
export type ListSettings = Schemas["ListSettingsModel"];

export const OUTCOMES = ["matched", "several", "unsure", "none", "rejected"] as const;
export type Outcome = "" | (typeof OUTCOMES)[number];
export type Said = Pick<Schemas["SayIn"], "verdict"> & { record_id?: number };
const PAGE = 100;

const path = (slug: string, name: string) => ({ path: { slug, name } });

export function useLists(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "counterparts"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/counterparts", { params: { path: { slug } } })),
  });
}

export function useList(slug: string, name: string) {
  return useQuery({
    queryKey: keys.of(slug, "counterparts", name),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/counterparts/{name}", { params: path(slug, name) })),
  });
}

export interface RowsAsked {
  outcome: Outcome;
  search: string;
  by_hand: boolean;
}

export function useRows(slug: string, name: string, asked: RowsAsked) {
  return useInfiniteQuery({
    queryKey: keys.of(slug, "counterparts", name, "rows", asked.outcome, asked.search, `${asked.by_hand}`),
    initialPageParam: "",
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/counterparts/{name}/rows", {
          params: { ...path(slug, name), query: { ...asked, cursor: pageParam, limit: PAGE } },
        }),
      ),
    getNextPageParam: ({ behind }) => behind || undefined,
    placeholderData: keepWithin(slug),
  });
}

export function useUnmatchedGolden(slug: string, name: string, shown: boolean) {
  return useInfiniteQuery({
    queryKey: keys.of(slug, "counterparts", name, "unmatched-golden"),
    enabled: shown,
    initialPageParam: "",
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/counterparts/{name}/unmatched-golden", {
          params: { ...path(slug, name), query: { cursor: pageParam, limit: PAGE } },
        }),
      ),
    getNextPageParam: ({ behind }) => behind || undefined,
  });
}

/** The fields that the plan in force compares anyway. */
export function useCompared(slug: string): string[] {
  const plan = useQuery({
    queryKey: keys.of(slug, "plan"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/plan", { params: { path: { slug } } })),
  });
  return (plan.data?.plan.comparisons ?? []).map(({ field }) => field);
}

function useRefreshLists(slug: string) {
  const queries = useQueryClient();
  return () => void queries.invalidateQueries({ queryKey: keys.of(slug, "counterparts") });
}

export function useMakeList(slug: string) {
  const refresh = useRefreshLists(slug);
  return useMutation({
    mutationFn: ({ name, file }: { name: string; file: File }) => {
      const query = new URLSearchParams({ name, file_name: file.name });
      return sendFile<CounterpartList>("POST", `/api/registers/${slug}/counterparts?${query}`, file);
    },
    onSuccess: refresh,
  });
}

export function useReplaceFile(slug: string, name: string) {
  const refresh = useRefreshLists(slug);
  return useMutation({
    mutationFn: (file: File) => {
      const address = `/api/registers/${slug}/counterparts/${encodeURIComponent(name)}/file`;
      return sendFile<CounterpartList>("PUT", `${address}?${new URLSearchParams({ file_name: file.name })}`, file);
    },
    onSuccess: refresh,
  });
}

export function useChangeList(slug: string, name: string) {
  const refresh = useRefreshLists(slug);
  return useMutation({
    mutationFn: (body: Schemas["ChangeListIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/counterparts/{name}", { params: path(slug, name), body })),
    onSuccess: refresh,
  });
}

export function useForgetList(slug: string) {
  const refresh = useRefreshLists(slug);
  return useMutation({
    mutationFn: (name: string) =>
      unwrap(client.DELETE("/api/registers/{slug}/counterparts/{name}", { params: path(slug, name) })),
    onSuccess: refresh,
  });
}

export function useRunList(slug: string, name: string) {
  return useMutation({
    mutationFn: () =>
      unwrap(client.POST("/api/registers/{slug}/counterparts/{name}/run", { params: path(slug, name) })),
  });
}

/** Say what a row means, or (without words) take back all that was said; counts and rows follow. */
export function useSay(slug: string, name: string) {
  const refresh = useRefreshLists(slug);
  return useMutation({
    mutationFn: ({ key, said }: { key: string; said: Said | null }) =>
      said
        ? unwrap(
            client.POST("/api/registers/{slug}/counterparts/{name}/rows", {
              params: path(slug, name),
              body: { key, remark: "", record_id: null, ...said },
            }),
          )
        : unwrap(
            client.DELETE("/api/registers/{slug}/counterparts/{name}/rows", {
              params: { ...path(slug, name), query: { key } },
            }),
          ),
    onSuccess: refresh,
  });
}

import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { deskId } from "../../../api/me";

export type Cluster = Schemas["ClusterOut"];
export type ClusterLink = Schemas["ClusterLinkOut"];
export type GroupIn = Omit<Schemas["GroupIn"], "desk">;

/** The records of the clusters of the latest run that some records belong to. */
export function useRecordsOf(slug: string, of: readonly number[]) {
  return useQuery({
    queryKey: keys.of(slug, "cluster", "of", of.join(",")),
    queryFn: async () => {
      const found = await Promise.all(
        of.map((record_id) =>
          unwrap(
            client.GET("/api/registers/{slug}/clusters/of/{record_id}", { params: { path: { slug, record_id } } }),
          ),
        ),
      );
      return [...new Set(found.flat())];
    },
  });
}

export function useCluster(slug: string, records: readonly number[]) {
  return useQuery({
    queryKey: keys.of(slug, "cluster", "table", records.join(",")),
    enabled: records.length > 0,
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/clusters", { params: { path: { slug }, query: { record: [...records] } } }),
      ),
  });
}

/** The golden values that would come of every group, while records are marked. */
export function useWouldBe(slug: string, groups: readonly (readonly number[])[]) {
  return useQuery({
    queryKey: keys.of(slug, "cluster", "golden", JSON.stringify(groups)),
    enabled: groups.length > 1,
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/clusters/golden", {
          params: { path: { slug } },
          body: { groups: groups.map((group) => [...group]) },
        }),
      ),
  });
}

export function useDecideGroup(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: GroupIn) =>
      unwrap(
        client.POST("/api/registers/{slug}/group-decisions", {
          params: { path: { slug } },
          body: { ...body, desk: deskId() },
        }),
      ),
    onSuccess: () => {
      for (const about of ["cluster", "kinds", "progress", "decisions"])
        void queries.invalidateQueries({ queryKey: keys.of(slug, about) });
      void queries.invalidateQueries({ queryKey: keys.registers });
    },
  });
}

/** Set a value of a golden record by hand, of the version that is there now. */
export function usePinValue(slug: string, key: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (body: { field: string; value: string; reason: string }) => {
      const params = { path: { slug, key } };
      const golden = await unwrap(client.GET("/api/registers/{slug}/golden/{key}", { params }));
      return unwrap(
        client.POST("/api/registers/{slug}/golden/{key}/pins", {
          params,
          body: { ...body, seen_version: golden.version },
        }),
      );
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.register(slug) }),
  });
}

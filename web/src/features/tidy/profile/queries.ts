import { useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { type Scope, scopeQuery } from "../recordsBehind";

export type FieldProfile = Schemas["FieldProfileOut"];
export function useProfile(slug: string, scope: Scope | null) {
  return useQuery({
    queryKey: keys.of(slug, "profile", scope ?? "none"),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/profile", { params: { path: { slug }, query: scopeQuery(scope ?? "") } }),
      ),
    enabled: scope !== null,
  });
}

export function useAskProfile(slug: string) {
  return useMutation({
    mutationFn: (scope: Scope) =>
      unwrap(client.POST("/api/registers/{slug}/profile", { params: { path: { slug }, query: scopeQuery(scope) } })),
  });
}

/** Sources and deliveries whose values can be looked at apart. */
export function useScopes(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "scopes"),
    queryFn: async () => {
      const path = { params: { path: { slug } } };
      const [sources, deliveries] = await Promise.all([
        unwrap(client.GET("/api/registers/{slug}/sources", path)),
        unwrap(client.GET("/api/registers/{slug}/deliveries", path)),
      ]);
      return [
        { value: "", label: "all records" },
        ...sources.map(({ name }) => ({ value: `source ${name}`, label: `source ${name}` })),
        ...deliveries
          .filter(({ status }) => status === "loaded")
          .map(({ id, file_name, loaded_at }) => ({
            value: `delivery ${id}`,
            label: `delivery ${file_name}`,
            hint: loaded_at?.slice(0, 10) ?? "",
          })),
      ];
    },
  });
}

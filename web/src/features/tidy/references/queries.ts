import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";

export type ReferenceField = Schemas["ReferenceFieldOut"];

export function useReferences(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "references"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/references", { params: { path: { slug } } })),
  });
}

export function useResolveReferences(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/registers/{slug}/references", { params: { path: { slug } } })),
    onSuccess: (answer) => queries.setQueryData(keys.of(slug, "references"), answer),
  });
}

export function useLink(slug: string, field: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["LinkIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/references/{field}", { params: { path: { slug, field } }, body })),
    onSuccess: (answer) => queries.setQueryData(keys.of(slug, "references"), answer),
  });
}

import { useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { useRefreshRegister } from "../../../api/registers";

export type RecordFilter = Schemas["FilterIn"];

export function useValues(slug: string, filter: RecordFilter) {
  return useQuery({
    queryKey: keys.of(slug, "values", ...Object.values(filter)),
    queryFn: () =>
      unwrap(client.POST("/api/registers/{slug}/corrections/values", { params: { path: { slug } }, body: filter })),
  });
}

export function useCorrections(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "corrections"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/corrections", { params: { path: { slug } } })),
  });
}

export function useCorrect(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: Schemas["CorrectFieldIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/corrections", { params: { path: { slug } }, body })),
    onSuccess: refresh,
  });
}

export function useUndoCorrection(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (batch: number) =>
      unwrap(client.DELETE("/api/registers/{slug}/corrections/{batch}", { params: { path: { slug, batch } } })),
    onSuccess: refresh,
  });
}

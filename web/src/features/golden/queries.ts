import { useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";

export type Golden = Schemas["GoldenOut"];
export type Member = Schemas["MemberOut"];
export type MergePreview = Schemas["MergePreview"];
export function useGolden(slug: string, key: string) {
  return useQuery({
    queryKey: keys.of(slug, "golden", key),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/golden/{key}", { params: { path: { slug, key } } })),
  });
}

/** A golden record as it was at the end of a day (2026-11-23, in the reader's time). */
export function useGoldenThen(slug: string, key: string, day: string) {
  return useQuery({
    queryKey: keys.of(slug, "golden-then", key, day),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/golden/{key}/then", {
          params: { path: { slug, key }, query: { at: new Date(`${day}T23:59:59`).toISOString() } },
        }),
      ),
  });
}

export function useMergePreview(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "merge"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/merge", { params: { path: { slug } } })),
  });
}

export function useStartMerge(slug: string) {
  return useMutation({
    mutationFn: (seen: string) =>
      unwrap(client.POST("/api/registers/{slug}/merge", { params: { path: { slug } }, body: { seen } })),
  });
}

export function useSplit(slug: string, key: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: Schemas["SplitIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/golden/{key}/split", { params: { path: { slug, key } }, body })),
    onSuccess: refresh,
  });
}

export function usePin(slug: string, key: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: Schemas["PinIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/golden/{key}/pins", { params: { path: { slug, key } }, body })),
    onSuccess: refresh,
  });
}

export function useLiftPin(slug: string, key: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ pinId, seenVersion }: { pinId: number; seenVersion: number }) =>
      unwrap(
        client.DELETE("/api/registers/{slug}/golden/{key}/pins/{pin_id}", {
          params: { path: { slug, key, pin_id: pinId }, query: { seen_version: seenVersion } },
        }),
      ),
    onSuccess: refresh,
  });
}

export function useUndo(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ id, part, withLater = false }: { id: number; part: number; withLater?: boolean }) =>
      unwrap(
        client.POST("/api/journal/{entry_id}/undo", {
          params: { path: { entry_id: id }, query: { part, with_later: withLater } },
        }),
      ),
    onSuccess: refresh,
  });
}

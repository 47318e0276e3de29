import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";
import { sendFile } from "../../api/upload";
import { complete, type Mapping } from "../../domain/mapping";

export type Delivery = Schemas["DeliveryOut"];
export type Preview = Schemas["PreviewOut"];
export type Source = Schemas["SourceOut"];
export type LoadOptions = Pick<Schemas["LoadIn"], "delivers" | "gone">;

export function useDeliveries(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "deliveries"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/deliveries", { params: { path: { slug } } })),
  });
}

export function useChangeSource(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ name, ...body }: { name: string } & Schemas["SourceChange"]) =>
      unwrap(client.PATCH("/api/registers/{slug}/sources/{name}", { params: { path: { slug, name } }, body })),
    onSuccess: refresh,
  });
}

export function useUpload(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (file: File) =>
      sendFile<Preview>(
        "POST",
        `/api/registers/${slug}/deliveries?${new URLSearchParams({ file_name: file.name })}`,
        file,
      ),
    onSuccess: refresh,
  });
}

export function usePreview(slug: string, deliveryId: number) {
  return useQuery({
    queryKey: keys.of(slug, "delivery", deliveryId),
    queryFn: () =>
      unwrap(client.GET("/api/deliveries/{delivery_id}", { params: { path: { delivery_id: deliveryId } } })),
  });
}

/** What the columns of a draft look like: how full, how different. */
export function useDraftProfile(slug: string, deliveryId: number, format: string) {
  return useQuery({
    queryKey: keys.of(slug, "draft-profile", deliveryId, format),
    queryFn: () =>
      unwrap(client.GET("/api/deliveries/{delivery_id}/profile", { params: { path: { delivery_id: deliveryId } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useTriedMapping(slug: string, deliveryId: number, mapping: Mapping) {
  return useQuery({
    queryKey: keys.of(slug, "try", deliveryId, JSON.stringify(mapping)),
    queryFn: () =>
      unwrap(
        client.POST("/api/deliveries/{delivery_id}/try", {
          params: { path: { delivery_id: deliveryId } },
          body: { mapping: complete(mapping) },
        }),
      ),
    placeholderData: keepWithin(slug),
  });
}

export function useLoad(slug: string, deliveryId: number) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ mapping, ...how }: { mapping: Mapping } & LoadOptions) =>
      unwrap(
        client.POST("/api/registers/{slug}/deliveries/{delivery_id}/load", {
          params: { path: { slug, delivery_id: deliveryId } },
          body: { mapping: complete(mapping), ...how },
        }),
      ),
    onSuccess: refresh,
  });
}

export function useDiscard(slug: string, deliveryId: number) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: () =>
      unwrap(client.DELETE("/api/deliveries/{delivery_id}", { params: { path: { delivery_id: deliveryId } } })),
    onSuccess: refresh,
  });
}

/** Read a draft's file in another way; the answer takes the place of what was known of it. */
export function useReadAgain(slug: string, deliveryId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["ReadingIn"]) =>
      unwrap(
        client.PUT("/api/deliveries/{delivery_id}/reading", { params: { path: { delivery_id: deliveryId } }, body }),
      ),
    onSuccess: (preview) => queries.setQueryData(keys.of(slug, "delivery", deliveryId), preview),
  });
}

export function useTakeBackPreview(slug: string, deliveryId: number) {
  return useQuery({
    queryKey: keys.of(slug, "take-back", deliveryId),
    queryFn: () =>
      unwrap(client.GET("/api/deliveries/{delivery_id}/take-back", { params: { path: { delivery_id: deliveryId } } })),
  });
}

export function useTakeBack(slug: string, deliveryId: number) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (change: "take-back" | "put-back") =>
      unwrap(
        client.POST("/api/registers/{slug}/deliveries/{delivery_id}/{change}", {
          params: { path: { slug, delivery_id: deliveryId, change } },
        }),
      ),
    onSuccess: refresh,
  });
}

export const REJECTED_PAGE = 200;

export function useRejected(slug: string, deliveryId: number, offset: number) {
  return useQuery({
    queryKey: keys.of(slug, "rejected", deliveryId, offset),
    queryFn: () =>
      unwrap(
        client.GET("/api/deliveries/{delivery_id}/rejected", {
          params: { path: { delivery_id: deliveryId }, query: { offset, limit: REJECTED_PAGE } },
        }),
      ),
    placeholderData: keepWithin(slug),
  });
}

export function useMend(slug: string, rowId: number) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (cells: Record<string, string>) =>
      unwrap(client.POST("/api/rejected/{row_id}/mend", { params: { path: { row_id: rowId } }, body: { cells } })),
    onSuccess: refresh,
  });
}

export function useTryQuery() {
  return useMutation({
    mutationFn: (body: Schemas["QueryIn"]) => unwrap(client.POST("/api/queries/try", { body })),
  });
}

export function useBringInQuery(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: Schemas["SourceQueryIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/queries", { params: { path: { slug } }, body })),
    onSuccess: refresh,
  });
}

export function useAskAgain(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (name: string) =>
      unwrap(client.POST("/api/registers/{slug}/sources/{name}/query", { params: { path: { slug, name } } })),
    onSuccess: refresh,
  });
}

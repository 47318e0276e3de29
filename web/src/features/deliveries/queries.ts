import { useMutation, useQuery } from "@tanstack/react-query";
import { client, ProblemError, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";

export type Delivery = Schemas["DeliveryOut"];
export type Preview = Schemas["PreviewOut"];
export type Source = Schemas["SourceOut"];
export type Mapping = Record<string, string>;

export function useDeliveries(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "deliveries"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/deliveries", { params: { path: { slug } } })),
  });
}

export function useSources(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "sources"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/sources", { params: { path: { slug } } })),
  });
}

export function useChangeSource(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ name, ...body }: { name: string; trust_rank?: number; own_duplicates?: boolean }) =>
      unwrap(client.PATCH("/api/registers/{slug}/sources/{name}", { params: { path: { slug, name } }, body })),
    onSuccess: refresh,
  });
}

/** The file is the body itself, so that a large one is never copied into a form. */
async function upload(slug: string, file: File): Promise<Preview> {
  const query = new URLSearchParams({ file_name: file.name });
  const answer = await fetch(`/api/registers/${slug}/deliveries?${query}`, {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file,
  });
  const body: unknown = await answer.json();
  if (answer.ok) return body as Preview;
  throw new ProblemError((body as { detail: string }).detail, answer.status);
}

export function useUpload(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({ mutationFn: (file: File) => upload(slug, file), onSuccess: refresh });
}

export function usePreview(slug: string, deliveryId: number) {
  return useQuery({
    queryKey: keys.of(slug, "delivery", deliveryId),
    queryFn: () =>
      unwrap(client.GET("/api/deliveries/{delivery_id}", { params: { path: { delivery_id: deliveryId } } })),
  });
}

export function useTriedMapping(slug: string, deliveryId: number, mapping: Mapping) {
  return useQuery({
    queryKey: keys.of(slug, "try", deliveryId, JSON.stringify(mapping)),
    queryFn: () =>
      unwrap(
        client.POST("/api/deliveries/{delivery_id}/try", {
          params: { path: { delivery_id: deliveryId } },
          body: { mapping },
        }),
      ),
    placeholderData: keepWithin(slug),
  });
}

export function useLoad(slug: string, deliveryId: number) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (mapping: Mapping) =>
      unwrap(
        client.POST("/api/registers/{slug}/deliveries/{delivery_id}/load", {
          params: { path: { slug, delivery_id: deliveryId } },
          body: { mapping },
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

export function useRejected(slug: string, deliveryId: number) {
  return useQuery({
    queryKey: keys.of(slug, "rejected", deliveryId),
    queryFn: () =>
      unwrap(client.GET("/api/deliveries/{delivery_id}/rejected", { params: { path: { delivery_id: deliveryId } } })),
  });
}

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";

/** Every change of what is given changes the queues. */
function useRefresh(slug: string) {
  const queries = useQueryClient();
  return () => void queries.invalidateQueries({ queryKey: keys.register(slug) });
}

export function useGive(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: (body: Schemas["GiveIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/work", { params: { path: { slug } }, body })),
    onSuccess: refresh,
  });
}

export function useChangePiece(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: ({ id, ...body }: Schemas["GivenToIn"] & { id: number }) =>
      unwrap(client.PUT("/api/registers/{slug}/work/{piece_id}", { params: { path: { slug, piece_id: id } }, body })),
    onSuccess: refresh,
  });
}

export function useEndPiece(slug: string) {
  const refresh = useRefresh(slug);
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(client.DELETE("/api/registers/{slug}/work/{piece_id}", { params: { path: { slug, piece_id: id } } })),
    onSuccess: refresh,
  });
}

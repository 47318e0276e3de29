import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

export type Receiver = Schemas["ReceiverOut"];
export type Kind = NonNullable<Schemas["ReceiverIn"]["kinds"]>[number];

/** How a receiver fares changes without this page. */
const LOOK_AGAIN_MS = 5_000;

export function useReceivers(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "receivers"),
    refetchInterval: LOOK_AGAIN_MS,
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/receivers", { params: { path: { slug } } })),
  });
}

function useAfter(slug: string) {
  const queries = useQueryClient();
  return () => void queries.invalidateQueries({ queryKey: keys.of(slug, "receivers") });
}

export function useAddReceiver(slug: string) {
  const after = useAfter(slug);
  return useMutation({
    mutationFn: (body: { address: string; kinds: Kind[] }) =>
      unwrap(client.POST("/api/registers/{slug}/receivers", { params: { path: { slug } }, body })),
    onSuccess: after,
  });
}

export function useSwitchReceiver(slug: string) {
  const after = useAfter(slug);
  return useMutation({
    mutationFn: ({ id, kinds, version, on }: Receiver) =>
      unwrap(
        client.PUT("/api/registers/{slug}/receivers/{receiver_id}", {
          params: { path: { slug, receiver_id: id } },
          body: { kinds: kinds as Kind[], on: !on, seen_version: version },
        }),
      ),
    onSettled: after,
  });
}

export function useTellAgain(slug: string) {
  const after = useAfter(slug);
  return useMutation({
    mutationFn: ({ id, since }: { id: number; since: string }) =>
      unwrap(
        client.POST("/api/registers/{slug}/receivers/{receiver_id}/again", {
          params: { path: { slug, receiver_id: id } },
          body: { since },
        }),
      ),
    onSuccess: after,
  });
}

export function useRemoveReceiver(slug: string) {
  const after = useAfter(slug);
  return useMutation({
    mutationFn: (id: number) =>
      unwrap(
        client.DELETE("/api/registers/{slug}/receivers/{receiver_id}", {
          params: { path: { slug, receiver_id: id } },
        }),
      ),
    onSuccess: after,
  });
}

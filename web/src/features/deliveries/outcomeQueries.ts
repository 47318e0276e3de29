import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";
import type { Outcome } from "../../domain/outcomes";

export type Recognition = Schemas["RecognitionOut"];
export type OutcomeRecord = Schemas["OutcomeRecordOut"];

const PAGE = 100;

/** Whether deliveries are recognised as they come in, and what hinders it. */
export function useRecognition(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "recognition"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/recognition", { params: { path: { slug } } })),
  });
}

export function useSetRecognition(slug: string) {
  const queries = useQueryClient();
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: Schemas["RecognitionIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/recognition", { params: { path: { slug } }, body })),
    onSuccess: (recognition) => {
      queries.setQueryData(keys.of(slug, "recognition"), recognition);
      refresh();
    },
  });
}

export function useOutcomes(slug: string, deliveryId: number) {
  return useQuery({
    queryKey: keys.of(slug, "outcomes", deliveryId),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/deliveries/{delivery_id}/outcomes", {
          params: { path: { slug, delivery_id: deliveryId } },
        }),
      ),
  });
}

/** The records of a delivery that came out in one way, page after page. */
export function useRecordsOfOutcome(slug: string, deliveryId: number, outcome: Outcome) {
  return useInfiniteQuery({
    queryKey: keys.of(slug, "records of outcome", deliveryId, outcome),
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/deliveries/{delivery_id}/outcomes/{outcome}", {
          params: { path: { slug, delivery_id: deliveryId, outcome }, query: { after: pageParam, limit: PAGE } },
        }),
      ),
    getNextPageParam: (page) => (page.length === PAGE ? page.at(-1)?.id : undefined),
  });
}

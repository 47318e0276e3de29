import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { patient } from "../../../api/patient";
import type { Trying } from "../bench";

export type Measured = Schemas["MeasuredOut"];
export type Quality = Schemas["MatchQualityOut"];
export type Estimate = Schemas["ShareEstimateOut"];

/** How good a plan is by what people decided. */
export function useMeasured(slug: string, trying: Trying, stamp: string) {
  return useQuery({
    ...patient,
    queryKey: keys.of(slug, "measured", JSON.stringify(trying), stamp),
    queryFn: () =>
      unwrap(client.POST("/api/registers/{slug}/bench/measured", { params: { path: { slug } }, body: trying })),
    placeholderData: keepPreviousData,
  });
}

/** Pairs of the fair sample, or from outside the blocks, that nobody decided yet; asked for once per round. */
export function useOpenPairs(slug: string, trying: Trying, what: "sample" | "outside", round: number) {
  const body = { ...trying, many: 100 };
  const path = { params: { path: { slug } }, body };
  return useQuery({
    queryKey: keys.of(slug, "open pairs", what, round),
    queryFn: () =>
      what === "sample"
        ? unwrap(client.POST("/api/registers/{slug}/bench/sample/pairs", path))
        : unwrap(client.POST("/api/registers/{slug}/bench/outside/pairs", path)),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
}

export function useDrawSample(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    ...patient,
    mutationFn: (body: Trying & { many: number; anew: boolean }) =>
      unwrap(client.POST("/api/registers/{slug}/bench/sample", { params: { path: { slug } }, body })),
    onSettled: () => queries.invalidateQueries({ queryKey: keys.of(slug, "measured") }),
  });
}

/** Begin to look outside the blocks; the bench tells how far it is. */
export function useLookOutside(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Trying) =>
      unwrap(client.POST("/api/registers/{slug}/bench/outside", { params: { path: { slug } }, body })),
    onSettled: () => queries.invalidateQueries({ queryKey: keys.of(slug, "bench") }),
  });
}

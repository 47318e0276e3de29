import { useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { useRefreshRegister } from "../../../api/registers";

export type RuleStep = Schemas["RuleStep"];
export type Chain = RuleStep[];
export type Rule = Schemas["RuleOut"];
export type Form = Schemas["RegisterOut"]["form"];
export type Tried = Schemas["RulesTried"];
export interface Draft {
  rules: Record<string, Chain>;
  form?: Form;
}

const at = (slug: string) => ({ params: { path: { slug } } });

export function useChangeRules(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: Draft & { seen_version: number }) =>
      unwrap(client.PUT("/api/registers/{slug}/rules", { ...at(slug), body })),
    onSuccess: refresh,
  });
}

export function useTryRules(slug: string) {
  return useMutation({
    mutationFn: (body: Draft) => unwrap(client.POST("/api/registers/{slug}/rules/try", { ...at(slug), body })),
  });
}

export function useTried(slug: string, jobId: number, done: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "rules-tried", jobId),
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/rules/tried/{job_id}", { params: { path: { slug, job_id: jobId } } })),
    enabled: done,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useEarlierRules(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "rules-earlier"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/rules/earlier", at(slug))),
  });
}

export function usePutRulesBack(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ entryId, seenVersion }: { entryId: number; seenVersion: number }) =>
      unwrap(
        client.POST("/api/registers/{slug}/rules/earlier/{entry_id}/put-back", {
          params: { path: { slug, entry_id: entryId } },
          body: { seen_version: seenVersion },
        }),
      ),
    onSuccess: refresh,
  });
}

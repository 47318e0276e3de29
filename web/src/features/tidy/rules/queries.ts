import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";

export type Quality = Schemas["QualityOut"];
export type MeasuredRule = Schemas["MeasuredRuleOut"];

export function useQuality(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "quality"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/quality", { params: { path: { slug } } })),
  });
}

export function useSaveRules(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["RulesIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/quality", { params: { path: { slug } }, body })),
    onSuccess: (quality) => queries.setQueryData(keys.of(slug, "quality"), quality),
  });
}

import { useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

export type Kept = Schemas["KeptOut"];

/** Whose data are meant: a golden record by its key, or records. */
export interface Whom {
  key: string;
  record_ids: number[];
}

export function useKept(slug: string, whom: Whom) {
  return useQuery({
    queryKey: keys.of(slug, "forgetting", JSON.stringify(whom)),
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/forgetting", { params: { path: { slug }, query: { ...whom } } })),
  });
}

export function useForget(slug: string) {
  return useMutation({
    mutationFn: (body: Schemas["ForgetPersonIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/forgetting", { params: { path: { slug } }, body })),
  });
}

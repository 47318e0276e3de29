import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

export type FoundRecord = Schemas["RecordOut"];

/** Records of a register found by words, from two letters on. */
export function useFoundRecords(slug: string, search: string, limit: number) {
  return useQuery({
    queryKey: keys.of(slug, "find", search, limit),
    enabled: search.trim().length >= 2,
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/records", { params: { path: { slug }, query: { search, limit } } })),
  });
}

import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

export type Source = Schemas["SourceOut"];

/** A register's sources, most trusted first. */
export function useSources(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "sources"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/sources", { params: { path: { slug } } })),
  });
}

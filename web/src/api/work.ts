import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

export type Piece = Schemas["PieceOut"];

/** What is given to whom, and how far it is. */
export function useWork(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "work"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/work", { params: { path: { slug } } })),
  });
}

import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";

export type Watch = Schemas["WatchOut"];

export function useWatch(slug: string, days: number) {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return useQuery({
    queryKey: keys.of(slug, "watch", days, zone),
    placeholderData: keepWithin(slug),
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/watch", { params: { path: { slug }, query: { days, zone } } })),
  });
}

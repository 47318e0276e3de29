import { useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";

export type Today = Schemas["TodayOut"];

/** What a person begins the day with, over all registers. */
export function useToday() {
  return useQuery({ queryKey: ["today"], queryFn: () => unwrap(client.GET("/api/today")), staleTime: 0 });
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

export type Schedule = Schemas["ScheduleOut"];
export type ScheduleIn = Schemas["ScheduleIn"];
export type Turn = Schemas["TurnOut"];

/** Turns go on without this page: looked at again and again while one does. */
const LOOK_AGAIN_MS = 2_000;
const goesOn = (turns: readonly Turn[] | undefined) =>
  turns?.some(({ state }) => state === "waiting" || state === "running");

export function useSchedules(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "schedules"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/schedules", { params: { path: { slug } } })),
  });
}

export function useTurns(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "turns"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/turns", { params: { path: { slug } } })),
    refetchInterval: (query) => (goesOn(query.state.data) ? LOOK_AGAIN_MS : false),
  });
}

function useAfter(slug: string) {
  const queries = useQueryClient();
  return () => {
    for (const told of ["schedules", "turns", "deliveries"])
      void queries.invalidateQueries({ queryKey: keys.of(slug, told) });
    void queries.invalidateQueries({ queryKey: ["today"] });
  };
}

export function useSetSchedule(slug: string, source: string) {
  const after = useAfter(slug);
  return useMutation({
    mutationFn: (body: ScheduleIn) =>
      unwrap(client.PUT("/api/registers/{slug}/schedules/{source}", { params: { path: { slug, source } }, body })),
    onSettled: after,
  });
}

export function useTurnNow(slug: string) {
  const after = useAfter(slug);
  return useMutation({
    mutationFn: (source: string) =>
      unwrap(client.POST("/api/registers/{slug}/schedules/{source}/turns", { params: { path: { slug, source } } })),
    onSettled: after,
  });
}

export function useAnswerTurn(slug: string) {
  const after = useAfter(slug);
  return useMutation({
    mutationFn: ({ turn, answer }: { turn: number; answer: "let-through" | "give-up" }) =>
      unwrap(client.POST("/api/turns/{turn_id}/{answer}", { params: { path: { turn_id: turn, answer } } })),
    onSettled: after,
  });
}

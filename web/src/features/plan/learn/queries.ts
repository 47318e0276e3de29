import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import { patient } from "../../../api/patient";
import type { Trying } from "../bench";

export type Lesson = Schemas["LessonOut"];
export type PlanEdit = Schemas["PlanEditOut"];

/** The thirty pairs whose answers teach most, asked for once per round. */
export function useTeachingPairs(slug: string, trying: Trying, many: number, weighs: number, round: number) {
  return useQuery({
    ...patient,
    queryKey: keys.of(slug, "teaching", round),
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/bench/teaching", {
          params: { path: { slug } },
          body: { ...trying, many, wrong_weighs: weighs },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
}

/** What all decisions in force teach; one wrong pair weighs as much as so many missed ones. */
export function useLesson(slug: string, trying: Trying, wrongWeighs: number, stamp: string) {
  return useQuery({
    ...patient,
    queryKey: keys.of(slug, "lesson", JSON.stringify(trying), wrongWeighs, stamp),
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/bench/learned", {
          params: { path: { slug } },
          body: { ...trying, wrong_weighs: wrongWeighs },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** The plan as it was before it learned. */
export function useUnlearned(slug: string) {
  return useMutation({
    mutationFn: (body: Trying) =>
      unwrap(client.POST("/api/registers/{slug}/bench/unlearned", { params: { path: { slug } }, body })),
  });
}

import { useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keepWithin, keys } from "../../../api/keys";
import { useRefreshRegister } from "../../../api/registers";
import type { Step, Steps } from "../../../domain/tidySteps";

export type TidySteps = Schemas["TidyStepsOut"];

/** What a recount found, as the server keeps it with the job. */
export interface Recount {
  records: number;
  clusters_before: number;
  clusters_after: number;
  changes: { was: string; becomes: string; pairs: number }[];
  sample: {
    left_id: number;
    right_id: number;
    left: Record<string, string>;
    right: Record<string, string>;
    was: string;
    becomes: string;
  }[];
}

const plain = (steps: Steps) => steps as Record<string, Record<string, string>[]>;

export function useTidySteps(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "steps"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/tidy/steps", { params: { path: { slug } } })),
  });
}

export function useTriedSteps(
  slug: string,
  field: string,
  steps: readonly Step[],
  search: string,
  onlyChanged: boolean,
) {
  return useQuery({
    queryKey: keys.of(slug, "tried", field, JSON.stringify(steps), search, Number(onlyChanged)),
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/tidy/try", {
          params: { path: { slug } },
          body: { field, steps: steps as Record<string, string>[], search, only_changed: onlyChanged },
        }),
      ),
    placeholderData: keepWithin(slug),
    enabled: field !== "",
    retry: false,
  });
}

export function useSaveSteps(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ steps, seen_version }: { steps: Steps; seen_version: number }) =>
      unwrap(
        client.PUT("/api/registers/{slug}/tidy/steps", {
          params: { path: { slug } },
          body: { steps: plain(steps), seen_version },
        }),
      ),
    onSuccess: refresh,
  });
}

export function useAskRecount(slug: string) {
  return useMutation({
    mutationFn: (steps: Steps) =>
      unwrap(
        client.POST("/api/registers/{slug}/tidy/recount", {
          params: { path: { slug } },
          body: { steps: plain(steps) },
        }),
      ),
  });
}

export function useBuildPattern() {
  return useMutation({
    mutationFn: (examples: { text: string; start: number; end: number }[]) =>
      unwrap(client.POST("/api/tidy/pattern", { body: { examples } })),
  });
}

import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

export type Job = Schemas["JobOut"];

export const isActive = (job: Job) => job.status === "queued" || job.status === "running";

/** The newest jobs; the server pushes every change, so nothing is asked for twice. */
export function useJobs() {
  return useQuery({
    queryKey: keys.jobs,
    queryFn: () => unwrap(client.GET("/api/jobs")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useCancelJob() {
  return useMutation({
    mutationFn: (jobId: number) =>
      unwrap(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: jobId } } })),
  });
}

/**
 * Listen to the server's stream of jobs; when one ends, what is shown of its register is refreshed.
 * Only a page in sight listens: a browser opens just six connections to one server, and each stream holds one.
 */
export function useJobEvents(onEnd: (job: Job) => void) {
  const queries = useQueryClient();
  useEffect(() => {
    const ended = new Set<number>();
    let first = true;
    let source: EventSource | null = null;
    const take = (event: MessageEvent<string>) => {
      const answer = JSON.parse(event.data) as Schemas["JobsOut"];
      queries.setQueryData(keys.jobs, answer);
      for (const job of answer.jobs) {
        if (isActive(job) || ended.has(job.id)) continue;
        ended.add(job.id);
        if (first) continue;
        void queries.invalidateQueries({ queryKey: keys.register(job.register_slug) });
        void queries.invalidateQueries({ queryKey: keys.registers });
        onEnd(job);
      }
      first = false;
    };
    const close = () => {
      source?.close();
      source = null;
    };
    const follow = () => {
      if (document.visibilityState === "hidden") return close();
      source ??= new EventSource("/api/jobs/events");
      source.onmessage = take;
    };
    follow();
    document.addEventListener("visibilitychange", follow);
    window.addEventListener("pagehide", close);
    window.addEventListener("pageshow", follow);
    return () => {
      close();
      document.removeEventListener("visibilitychange", follow);
      window.removeEventListener("pagehide", close);
      window.removeEventListener("pageshow", follow);
    };
  }, [queries, onEnd]);
}

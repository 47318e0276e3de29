import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";
import { askWhoIsIn } from "./who";

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

/** How long after a broken connection the server is asked again. */
const ASK_AGAIN_MS = 2_000;

/**
 * Listen to the server's stream of jobs; when one ends, what is shown of its register is refreshed. Returns whether the
 * server answers: when it does not, it is asked again and again, and once it is back everything in sight is refreshed.
 * Only a page in sight listens: a browser opens just six connections to one server, and each stream holds one.
 */
export function useJobEvents(onEnd: (job: Job) => void): boolean {
  const queries = useQueryClient();
  const [answers, setAnswers] = useState(true);
  useEffect(() => {
    const ended = new Set<number>();
    let first = true;
    let lost = false;
    let source: EventSource | null = null;
    let again: number | undefined;
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
      if (lost) void queries.invalidateQueries();
      lost = false;
      setAnswers(true);
    };
    const close = () => {
      window.clearTimeout(again);
      source?.close();
      source = null;
    };
    const lose = () => {
      close();
      lost = true;
      setAnswers(false);
      // The stream ends, too, when somebody is signed out elsewhere: who is in is asked, and the frame says so.
      void askWhoIsIn(queries);
      again = window.setTimeout(follow, ASK_AGAIN_MS);
    };
    const follow = () => {
      if (document.visibilityState === "hidden") return close();
      if (source) return;
      source = new EventSource("/api/jobs/events");
      source.onmessage = take;
      source.onerror = lose;
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
  return answers;
}

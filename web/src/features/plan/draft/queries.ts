import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";

export type Draft = Schemas["DraftOut"];
export type ProblemAt = Schemas["ProblemAt"];
export type Words = Schemas["VocabularyOut"];

export function useDrafts(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "drafts"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/plan/drafts", { params: { path: { slug } } })),
  });
}

/** Keeps a draft: a new one, or another text of one that is known. */
export function useKeepDraft(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ draft, ...body }: { draft: Draft | null; title: string; yaml: string; based_on: number }) =>
      draft
        ? unwrap(
            client.PUT("/api/registers/{slug}/plan/drafts/{draft_id}", {
              params: { path: { slug, draft_id: draft.id } },
              body: { title: body.title, yaml: body.yaml, seen_version: draft.version },
            }),
          )
        : unwrap(client.POST("/api/registers/{slug}/plan/drafts", { params: { path: { slug } }, body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.of(slug, "drafts") }),
  });
}

export function useThrowAway(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (draft_id: number) =>
      unwrap(client.DELETE("/api/registers/{slug}/plan/drafts/{draft_id}", { params: { path: { slug, draft_id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: keys.of(slug, "drafts") }),
  });
}

/** Every problem of a text, with its line. */
export function useProblems(slug: string, yaml: string) {
  return useQuery({
    queryKey: keys.of(slug, "problems", yaml),
    queryFn: () =>
      unwrap(client.POST("/api/registers/{slug}/plan/check", { params: { path: { slug } }, body: { yaml } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 20_000,
  });
}

export function useWords(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "words"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/plan/words", { params: { path: { slug } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useReadyMade(slug: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "ready made"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/plan/ready-made", { params: { path: { slug } } })),
    enabled,
  });
}

export function useProposal(slug: string) {
  return useMutation({
    mutationFn: () => unwrap(client.GET("/api/registers/{slug}/plan/proposal", { params: { path: { slug } } })),
  });
}

export function useVersion(slug: string) {
  return useMutation({
    mutationFn: (version: number) =>
      unwrap(client.GET("/api/registers/{slug}/plan/versions/{version}", { params: { path: { slug, version } } })),
  });
}

export function useDifference(slug: string, yaml: string, against: number, enabled: boolean) {
  return useQuery({
    queryKey: keys.of(slug, "difference", yaml, against),
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/plan/difference", { params: { path: { slug } }, body: { yaml, against } }),
      ),
    enabled,
  });
}

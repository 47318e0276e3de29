import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";

export type Candidate = Schemas["LookUpCandidateOut"];
export type Told = Schemas["ToldOut"];
export type Check = Schemas["CheckOut"];
export type CheckPart = Schemas["CheckPart"];
export type Referred = Schemas["ReferredOut"];
export type Entered = Schemas["EntryOut"];
export type EntryIn = Schemas["EntryIn"];
export type Values = Readonly<Record<string, string>>;

/** A new record is recognised within seconds: so often is looked whether it was. */
const LOOK_AGAIN_MS = 700;

/** Whom what was typed may be, and what the checks tell of it. */
export function useLook(slug: string, values: Values) {
  const typed = Object.fromEntries(Object.entries(values).filter(([, value]) => value.trim() !== ""));
  return useQuery({
    queryKey: keys.of(slug, "entering", JSON.stringify(typed)),
    enabled: Object.keys(typed).length > 0,
    placeholderData: keepWithin(slug),
    retry: false,
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/entries/look", { params: { path: { slug } }, body: { values: typed } }),
      ),
  });
}

/** Golden records that hold words beginning as typed: what a look-up cannot know yet. */
export function useBegins(slug: string, typed: string) {
  const search = typed.trim();
  return useQuery({
    queryKey: keys.of(slug, "begins", search),
    enabled: search.length >= 2,
    placeholderData: keepWithin(slug),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/golden", {
          params: { path: { slug }, query: { search, order: "match", limit: 6 } },
        }),
      ),
  });
}

export function useEnter(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: EntryIn) =>
      unwrap(client.POST("/api/registers/{slug}/entries", { params: { path: { slug } }, body })),
    onSuccess: refresh,
  });
}

/** What was entered, until it is known which golden record it became. */
export function useEntry(slug: string, entered: Entered) {
  return useQuery({
    queryKey: keys.of(slug, "entry", entered.id),
    enabled: entered.source_key !== "",
    refetchInterval: (query) => (query.state.data?.golden_key ? false : LOOK_AGAIN_MS),
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/entries/{number}", { params: { path: { slug, number: entered.id } } })),
  });
}

export function useChecks(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "checks"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/checks", { params: { path: { slug } } })),
  });
}

export function useTryCheck(slug: string) {
  return useMutation({
    mutationFn: (parts: CheckPart[]) =>
      unwrap(
        client.POST("/api/registers/{slug}/checks/try", { params: { path: { slug } }, body: { parts, days: 30 } }),
      ),
  });
}

function useAfterChecks(slug: string) {
  const queries = useQueryClient();
  return () => {
    for (const changed of ["checks", "entering"]) void queries.invalidateQueries({ queryKey: keys.of(slug, changed) });
  };
}

export function usePutCheck(slug: string) {
  const after = useAfterChecks(slug);
  return useMutation({
    mutationFn: (body: { parts: CheckPart[]; forbids: boolean }) =>
      unwrap(client.POST("/api/registers/{slug}/checks", { params: { path: { slug } }, body })),
    onSuccess: after,
  });
}

export function useRemoveCheck(slug: string) {
  const after = useAfterChecks(slug);
  return useMutation({
    mutationFn: (check: number) =>
      unwrap(client.DELETE("/api/registers/{slug}/checks/{check_id}", { params: { path: { slug, check_id: check } } })),
    onSuccess: after,
  });
}

export function useReference(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "reference"),
    queryFn: async () =>
      (await unwrap(client.GET("/api/registers/{slug}/reference", { params: { path: { slug } } }))).reference,
  });
}

export function useSetReference(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (reference: Schemas["ReferenceModel"] | null) =>
      unwrap(client.PUT("/api/registers/{slug}/reference", { params: { path: { slug } }, body: { reference } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.of(slug, "reference") }),
  });
}

export function useAskReference(slug: string) {
  return useMutation({
    mutationFn: (query: { name?: string; number?: string }) =>
      unwrap(client.GET("/api/registers/{slug}/reference/ask", { params: { path: { slug }, query } })),
  });
}

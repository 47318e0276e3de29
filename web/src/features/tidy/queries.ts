import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, ProblemError, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";
import { useRefreshRegister } from "../../api/registers";
import type { Step, Steps } from "../../domain/tidySteps";

export type Recipe = Schemas["RecipeOut"];
export type Table = Schemas["TableOut"];
export type Entry = Table["entries"][number];

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

export function useRecipe(slug: string) {
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

export type FieldProfile = Schemas["FieldProfileOut"];
/** Whose values are looked at: all ("") or those of "source NAME" or "delivery NUMBER". */
export type Scope = string;

export function scopeQuery(scope: Scope): Record<string, string> {
  const [kind = "", ...name] = scope.split(" ");
  return name.length > 0 ? { [kind]: name.join(" ") } : {};
}

export function useProfile(slug: string, scope: Scope | null) {
  return useQuery({
    queryKey: keys.of(slug, "profile", scope ?? "none"),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/profile", { params: { path: { slug }, query: scopeQuery(scope ?? "") } }),
      ),
    enabled: scope !== null,
  });
}

export function useAskProfile(slug: string) {
  return useMutation({
    mutationFn: (scope: Scope) =>
      unwrap(client.POST("/api/registers/{slug}/profile", { params: { path: { slug }, query: scopeQuery(scope) } })),
  });
}

/** Sources and deliveries whose values can be looked at apart. */
export function useScopes(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "scopes"),
    queryFn: async () => {
      const path = { params: { path: { slug } } };
      const [sources, deliveries] = await Promise.all([
        unwrap(client.GET("/api/registers/{slug}/sources", path)),
        unwrap(client.GET("/api/registers/{slug}/deliveries", path)),
      ]);
      return [
        { value: "", label: "all records" },
        ...sources.map(({ name }) => ({ value: `source ${name}`, label: `source ${name}` })),
        ...deliveries
          .filter(({ status }) => status === "loaded")
          .map(({ id, file_name, loaded_at }) => ({
            value: `delivery ${id}`,
            label: `delivery ${file_name}`,
            hint: loaded_at?.slice(0, 10) ?? "",
          })),
      ];
    },
  });
}

export type Quality = Schemas["QualityOut"];
export type MeasuredRule = Schemas["MeasuredRuleOut"];

export function useQuality(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "quality"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/quality", { params: { path: { slug } } })),
  });
}

export function useSaveRules(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["RulesIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/quality", { params: { path: { slug } }, body })),
    onSuccess: (quality) => queries.setQueryData(keys.of(slug, "quality"), quality),
  });
}

export type RecordFilter = Schemas["FilterIn"];

export function useHeldValues(slug: string, filter: RecordFilter) {
  return useQuery({
    queryKey: keys.of(slug, "held", ...Object.values(filter)),
    queryFn: () =>
      unwrap(client.POST("/api/registers/{slug}/corrections/values", { params: { path: { slug } }, body: filter })),
  });
}

export function useCorrections(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "corrections"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/corrections", { params: { path: { slug } } })),
  });
}

export function useCorrect(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (body: Schemas["MendFieldIn"]) =>
      unwrap(client.POST("/api/registers/{slug}/corrections", { params: { path: { slug } }, body })),
    onSuccess: refresh,
  });
}

export function useUndoCorrection(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: (batch: number) =>
      unwrap(client.DELETE("/api/registers/{slug}/corrections/{batch}", { params: { path: { slug, batch } } })),
    onSuccess: refresh,
  });
}

export type ReferenceField = Schemas["ReferenceFieldOut"];

export function useReferences(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "references"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/references", { params: { path: { slug } } })),
  });
}

export function useResolveReferences(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/registers/{slug}/references", { params: { path: { slug } } })),
    onSuccess: (answer) => queries.setQueryData(keys.of(slug, "references"), answer),
  });
}

export function useLink(slug: string, field: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["LinkIn"]) =>
      unwrap(client.PUT("/api/registers/{slug}/references/{field}", { params: { path: { slug, field } }, body })),
    onSuccess: (answer) => queries.setQueryData(keys.of(slug, "references"), answer),
  });
}

const TABLES = ["tables"] as const;

export function useTables() {
  return useQuery({ queryKey: TABLES, queryFn: () => unwrap(client.GET("/api/tables")) });
}

export function useTable(name: string) {
  return useQuery({
    queryKey: [...TABLES, name],
    // The client's types lose that an entry is a pair.
    queryFn: () => unwrap(client.GET("/api/tables/{name}", { params: { path: { name } } })) as Promise<Table>,
    enabled: name !== "",
  });
}

function useRefreshTables(slug: string) {
  const queries = useQueryClient();
  const refresh = useRefreshRegister(slug);
  return () => {
    void queries.invalidateQueries({ queryKey: TABLES });
    refresh();
  };
}

export function useMakeTable(slug: string) {
  const refresh = useRefreshTables(slug);
  return useMutation({
    mutationFn: (body: Schemas["NewTable"]) => unwrap(client.POST("/api/tables", { body })),
    onSuccess: refresh,
  });
}

export function useSaveTable(slug: string, name: string) {
  const refresh = useRefreshTables(slug);
  return useMutation({
    mutationFn: (body: Schemas["EntriesIn"]) =>
      unwrap(client.PUT("/api/tables/{name}", { params: { path: { name } }, body })),
    onSuccess: refresh,
  });
}

export function useUsage(slug: string, name: string, version: number, field: string) {
  return useQuery({
    queryKey: keys.of(slug, "usage", name, version, field),
    queryFn: () =>
      unwrap(client.GET("/api/tables/{name}/usage", { params: { path: { name }, query: { register: slug, field } } })),
    enabled: field !== "",
    placeholderData: keepWithin(slug),
  });
}

/** The entries of a file, to be looked at before they are saved; the file is the body itself. */
export async function entriesOfFile(name: string, file: File): Promise<Entry[]> {
  const query = new URLSearchParams({ file_name: file.name });
  const answer = await fetch(`/api/tables/${encodeURIComponent(name)}/import?${query}`, {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file,
  });
  const body: unknown = await answer.json();
  if (answer.ok) return body as Entry[];
  throw new ProblemError((body as { detail: string }).detail, answer.status);
}

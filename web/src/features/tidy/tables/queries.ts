import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, ProblemError, type Schemas, unwrap } from "../../../api/client";
import { keepWithin, keys } from "../../../api/keys";
import { useRefreshRegister } from "../../../api/registers";

export type Table = Schemas["TableOut"];
export type Entry = Table["entries"][number];

export function useTables() {
  return useQuery({ queryKey: keys.tables, queryFn: () => unwrap(client.GET("/api/tables")) });
}

export function useTable(name: string) {
  return useQuery({
    queryKey: [...keys.tables, name],
    // The client's types lose that an entry is a pair.
    queryFn: () => unwrap(client.GET("/api/tables/{name}", { params: { path: { name } } })) as Promise<Table>,
    enabled: name !== "",
  });
}

function useRefreshTables(slug: string) {
  const queries = useQueryClient();
  const refresh = useRefreshRegister(slug);
  return () => {
    void queries.invalidateQueries({ queryKey: keys.tables });
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

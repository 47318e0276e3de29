import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

export type SendOut = Schemas["SavedSendOut"];
export type Saved = Schemas["SendOutOut"];

export const USUAL: SendOut = {
  table: "golden",
  file_format: "csv",
  written: "as kept",
  columns: [],
  search: "",
  source: "",
  without: "",
  least_members: 0,
  most_members: 0,
  country: "",
  pinned: false,
  contradictory: false,
  empty: "",
  further: false,
  short_streets: false,
  region_names: false,
};

/** Where a send-out is fetched; what is as usual is left out. */
export function addressOf(slug: string, sendOut: SendOut): string {
  const params = new URLSearchParams();
  for (const [name, value] of Object.entries(sendOut)) {
    if (name === "table" || name === "file_format") continue;
    if (Array.isArray(value)) for (const item of value) params.append(name, item);
    else if (value && value !== USUAL[name as keyof SendOut]) params.set(name, String(value));
  }
  const query = params.size > 0 ? `?${params}` : "";
  return `/api/registers/${slug}/send-out/${sendOut.table}.${sendOut.file_format}${query}`;
}

const savedKey = (slug: string) => keys.of(slug, "send-outs");

export function useSendOuts(slug: string) {
  return useQuery({
    queryKey: savedKey(slug),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/send-outs", { params: { path: { slug } } })),
  });
}

export function useSaveSendOut(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ name, sendOut }: { name: string; sendOut: SendOut }) =>
      unwrap(client.PUT("/api/registers/{slug}/send-outs/{name}", { params: { path: { slug, name } }, body: sendOut })),
    onSuccess: () => queries.invalidateQueries({ queryKey: savedKey(slug) }),
  });
}

export function useForgetSendOut(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      unwrap(client.DELETE("/api/registers/{slug}/send-outs/{name}", { params: { path: { slug, name } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: savedKey(slug) }),
  });
}

/** Begins a saved send-out; the answer says where it is fetched. */
export function useRunSendOut(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      unwrap(client.POST("/api/registers/{slug}/send-outs/{name}/run", { params: { path: { slug, name } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: savedKey(slug) }),
  });
}

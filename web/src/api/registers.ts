import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "./client";
import { keys } from "./keys";

export type Register = Schemas["RegisterOut"];
export type RegisterKind = Schemas["RegisterKind"];

export function useRegisters() {
  return useQuery({ queryKey: keys.registers, queryFn: () => unwrap(client.GET("/api/registers")) });
}

export function useRegister(slug: string) {
  const registers = useRegisters();
  return registers.data?.find((register) => register.slug === slug);
}

export function useLayout(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "layout"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/layout", { params: { path: { slug } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useChangeLayout(slug: string) {
  const refresh = useRefreshRegister(slug);
  return useMutation({
    mutationFn: ({ fields, seen_version }: { fields: readonly Schemas["FieldIn"][]; seen_version: number }) =>
      unwrap(
        client.PUT("/api/registers/{slug}/layout", {
          params: { path: { slug } },
          body: {
            fields: fields.map(({ name, label, kind, register_slug }) => ({ name, label, kind, register_slug })),
            seen_version,
          },
        }),
      ),
    onSuccess: refresh,
  });
}

export function useMakeRegister() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; kind: RegisterKind }) =>
      unwrap(client.POST("/api/registers", { body: { ...body, prefix: "" } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.registers }),
  });
}

/**
 * Refresh all that is shown of a register, and the counts of the navigation. Nobody waits for it: what a person does
 * next (leave the screen, close the dialog) comes first.
 */
export function useRefreshRegister(slug: string) {
  const queries = useQueryClient();
  return () => {
    void queries.invalidateQueries({ queryKey: keys.register(slug) });
    void queries.invalidateQueries({ queryKey: keys.registers });
  };
}

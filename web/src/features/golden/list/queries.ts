import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keepWithin, keys } from "../../../api/keys";
import { moment } from "../../../domain/format";
import { asked, type ListQuery, NOTHING, orderOf } from "./query";

export type GoldenLine = Schemas["GoldenLine"];
export type View = Schemas["ViewOut"];
const PAGE = 100;

export function useGoldenList(slug: string, query: ListQuery) {
  const { order_field, turned, page } = query;
  const wanted = { ...asked(query), order: orderOf(query), order_field, turned, cursor: page, limit: PAGE };
  return useQuery({
    queryKey: keys.of(slug, "golden-list", JSON.stringify(wanted)),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/golden", { params: { path: { slug }, query: wanted } })),
    placeholderData: keepWithin(slug),
  });
}

export function useViews(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "views"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/views", { params: { path: { slug } } })),
  });
}

/** The state of the list that a saved view opens. */
export function stateOf(view: View): ListQuery {
  const { changed_since, columns, cursor: _cursor, limit: _limit, ...rest } = view.content;
  return {
    ...NOTHING,
    ...rest,
    columns: columns ?? [],
    changed_since: changed_since ? moment(changed_since).slice(0, 10) : "",
  };
}

export function useSaveView(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ name, query }: { name: string; query: ListQuery }) =>
      unwrap(
        client.PUT("/api/registers/{slug}/views/{name}", {
          params: { path: { slug, name } },
          body: {
            ...asked(query),
            order: query.order,
            order_field: query.order_field,
            turned: query.turned,
            columns: query.columns,
          } as Schemas["SavedView"],
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.of(slug, "views") }),
  });
}

export function useForgetView(slug: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      unwrap(client.DELETE("/api/registers/{slug}/views/{name}", { params: { path: { slug, name } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.of(slug, "views") }),
  });
}

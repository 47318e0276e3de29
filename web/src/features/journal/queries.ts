import { useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";

export type Entry = Schemas["Entry"];
export type WholeEntry = Schemas["WholeEntryOut"];
export type Why = Schemas["WhyOut"];

/** What is looked for, as it stands in the address of the page; what is "" is not asked. */
export interface Sought {
  actor: string;
  kind: string;
  since: string;
  until: string;
  words: string;
  record: string;
  golden_key: string;
}

/** Days as a person chose them, as moments: since the beginning of one, until the end of the other. */
function asked({ since, until, record, ...rest }: Sought) {
  const day = (text: string, days: number) => {
    const date = new Date(`${text}T00:00`);
    date.setDate(date.getDate() + days);
    return date.toISOString();
  };
  return {
    ...Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== "")),
    ...(since && { since: day(since, 0) }),
    ...(until && { until: day(until, 1) }),
    ...(record && { record: Number(record) }),
  };
}

const path = (slug: string) => ({ path: { slug } });

export function useJournal(slug: string, sought: Sought) {
  return useInfiniteQuery({
    queryKey: keys.of(slug, "journal", JSON.stringify(sought)),
    initialPageParam: undefined as number | undefined,
    placeholderData: keepWithin(slug),
    queryFn: ({ pageParam }) =>
      unwrap(
        client.GET("/api/registers/{slug}/journal", {
          params: { ...path(slug), query: { ...asked(sought), ...(pageParam && { before: pageParam }) } },
        }),
      ),
    getNextPageParam: (page) => page.behind ?? undefined,
  });
}

export function useChoices(slug: string) {
  return useQuery({
    queryKey: keys.of(slug, "journal-choices"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/journal/choices", { params: path(slug) })),
  });
}

export function useWholeEntry(slug: string, entryId: number) {
  return useQuery({
    queryKey: keys.of(slug, "journal-entry", entryId),
    enabled: entryId > 0,
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/journal/entries/{entry_id}", {
          params: { path: { slug, entry_id: entryId } },
        }),
      ),
  });
}

export function useVerify(slug: string) {
  return useMutation({
    mutationFn: () => unwrap(client.POST("/api/registers/{slug}/journal/verification", { params: path(slug) })),
  });
}

/** Where the journal, or what is looked for in it, is fetched as a table. */
export function tableAddress(slug: string, format: "csv" | "jsonl", sought: Sought): string {
  const query = new URLSearchParams(Object.entries(asked(sought)).map(([name, value]) => [name, String(value)]));
  return `/api/registers/${slug}/journal/table.${format}?${query}`;
}

export function useWhy(slug: string, left: number, right: number) {
  return useQuery({
    queryKey: keys.of(slug, "why", left, right),
    queryFn: () =>
      unwrap(client.GET("/api/registers/{slug}/why", { params: { ...path(slug), query: { left, right } } })),
  });
}

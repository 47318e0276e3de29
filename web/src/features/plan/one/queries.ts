import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, type Schemas, unwrap } from "../../../api/client";
import { keys } from "../../../api/keys";
import type { Trying } from "../bench";

export type OnePair = Schemas["OnePairOut"];

/** A side of the pair: the fields of a record as it is kept, or what is typed (without a record). */
export interface Side {
  record: number | null;
  fields: Record<string, string>;
}

export const NOTHING: Side = { record: null, fields: {} };

/** What is typed, without the fields left empty. */
function typed(fields: Record<string, string>): Record<string, string> {
  return Object.fromEntries(Object.entries(fields).filter(([, value]) => value.trim()));
}

/** Everything a plan says of two sides; asked for as soon as both hold something. */
export function useOnePair(slug: string, trying: Trying, left: Side, right: Side, stamp: string) {
  const filled = [left, right].every(
    ({ record, fields }) => record !== null || Object.values(fields).some((value) => value.trim()),
  );
  const sent = ({ record, fields }: Side) =>
    record === null ? { record_id: null, fields: typed(fields) } : { record_id: record, fields: {} };
  return useQuery({
    queryKey: keys.of(slug, "one pair", JSON.stringify([trying, left, right]), stamp),
    queryFn: () =>
      unwrap(
        client.POST("/api/registers/{slug}/bench/pair", {
          params: { path: { slug } },
          body: { ...trying, left: sent(left), right: sent(right) },
        }),
      ),
    enabled: filled,
    placeholderData: keepPreviousData,
  });
}

import { client, unwrap } from "../../../api/client";
import type { Column } from "./columns";
import { asked, type ListQuery } from "./query";

const MOST_COPIED = 5_000;

const cell = (text: string) => (/[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);

/** All golden records that the list asks for, up to some thousands, as the text of a CSV file with the shown columns. */
export async function asCsv(
  slug: string,
  query: ListQuery,
  columns: readonly Column[],
): Promise<{ text: string; rows: number }> {
  const lines = [["Key", ...columns.map(({ label }) => label)]];
  let cursor = "";
  do {
    const { order, order_field, turned } = query;
    const page = await unwrap(
      client.GET("/api/registers/{slug}/golden", {
        params: { path: { slug }, query: { ...asked(query), order, order_field, turned, cursor, limit: 500 } },
      }),
    );
    for (const line of page.golden) lines.push([line.key, ...columns.map((column) => column.shows(line))]);
    cursor = page.behind;
  } while (cursor && lines.length <= MOST_COPIED);
  return { text: lines.map((line) => line.map(cell).join(",")).join("\r\n"), rows: lines.length - 1 };
}

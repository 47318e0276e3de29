import { client, unwrap } from "../../../api/client";
import type { Column } from "./columns";
import { asked, type ListQuery, orderOf } from "./query";

const MOST_COPIED = 5_000;

/** What a spreadsheet would take for a formula, as the files that are sent out have it; a number behind + or - is none. */
const FORMULA = /^(?:[=@\t\r\n＝＠]|[+\-＋－](?![\d\s().]*\d[\d\s()./-]*$))/;

function cell(value: string): string {
  const text = FORMULA.test(value) ? `'${value}` : value;
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** Golden records that the list asks for, up to some thousands, as the text of a CSV file with the shown columns; are there more? */
export async function asCsv(
  slug: string,
  query: ListQuery,
  columns: readonly Column[],
): Promise<{ text: string; rows: number; more: boolean }> {
  const lines = [["Key", ...columns.map(({ label }) => label)]];
  let cursor = "";
  do {
    const { order_field, turned } = query;
    const page = await unwrap(
      client.GET("/api/registers/{slug}/golden", {
        params: {
          path: { slug },
          query: { ...asked(query), order: orderOf(query), order_field, turned, cursor, limit: 500 },
        },
      }),
    );
    for (const line of page.golden) lines.push([line.key, ...columns.map((column) => column.shows(line))]);
    cursor = page.behind;
  } while (cursor && lines.length <= MOST_COPIED);
  return {
    text: lines.map((line) => line.map(cell).join(",")).join("\r\n"),
    rows: lines.length - 1,
    more: cursor !== "",
  };
}

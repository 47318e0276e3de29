import { Link } from "react-router";
import { CELL, HEAD } from "../../../ui";
import type { Column } from "./columns";
import type { GoldenLine } from "./queries";
import { type ListQuery, orderOf } from "./query";

interface Props {
  slug: string;
  lines: readonly GoldenLine[];
  columns: readonly Column[];
  query: ListQuery;
  labels: Record<string, string>;
  onSort: (sorts: Column["sorts"], turned: boolean) => void;
}

/** Whether a list is in the order of a column. */
const isSorted = ({ sorts }: Column, query: ListQuery) =>
  sorts.order_field
    ? sorts.order_field === query.order_field
    : query.order_field === "" && sorts.order === orderOf(query);

function Head({ column, query, onSort }: { column: Column } & Pick<Props, "query" | "onSort">) {
  const sorted = isSorted(column, query);
  const falls = ["members", "filled", "changed"].includes(column.sorts.order) && !column.sorts.order_field;
  const down = falls !== query.turned;
  return (
    <th
      scope="col"
      aria-sort={sorted ? (down ? "descending" : "ascending") : "none"}
      className={`${HEAD} ${column.right ? "text-right" : ""}`}
    >
      <button
        type="button"
        className="font-semibold whitespace-nowrap hover:underline"
        onClick={() => onSort(column.sorts, sorted && !query.turned)}
      >
        {column.label}
        {sorted && <span aria-hidden="true">{down ? " ↓" : " ↑"}</span>}
      </button>
    </th>
  );
}

/** Golden records as lines; the head of a column orders by it, pressed again the other way round. */
export function GoldenTable({ slug, lines, columns, query, labels, onSort }: Props) {
  return (
    <table className="w-full text-sm">
      <thead>
        <tr>
          <Head
            column={{ name: "key", label: "Key", shows: ({ key }) => key, sorts: { order: "key", order_field: "" } }}
            query={query}
            onSort={onSort}
          />
          {columns.map((column) => (
            <Head key={column.name} column={column} query={query} onSort={onSort} />
          ))}
        </tr>
      </thead>
      <tbody>
        {lines.map((line) => (
          <tr key={line.key}>
            <td className={`${CELL} font-mono whitespace-nowrap`}>
              <Link className="text-plum underline" to={`/r/${slug}/golden/${line.key}`}>
                {line.key}
              </Link>
              {line.contradictions.length > 0 && (
                <span
                  className="ml-1.5 rounded-[2px] border border-rust px-1 font-sans text-xs text-rust"
                  title={`${line.contradictions.map((name) => labels[name] ?? name).join(", ")}: its records contradict each other`}
                >
                  contradictory
                </span>
              )}
            </td>
            {columns.map((column) => (
              <td
                key={column.name}
                className={`${CELL} ${column.right ? "text-right" : ""} ${column.name === "name" ? "font-medium" : ""}`}
              >
                {column.shows(line)}
                {line.pinned.includes(column.name) && <span className="ml-1 text-plum text-xs">pinned</span>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

import { Link } from "react-router";
import { useLayout } from "../../api/registers";
import { nameOf } from "../../domain/format";
import { Button, CELL, Empty, Faces, Heads, Pane } from "../../ui";
import { useUnmatchedGolden } from "./queries";

/** Golden records of the register that no matched row of the file means. */
export function UnmatchedGolden({ slug, name }: { slug: string; name: string }) {
  const golden = useUnmatchedGolden(slug, name, true);
  const fields = (useLayout(slug).data?.fields ?? []).filter((field) => !field.name.startsWith("name")).slice(0, 5);
  return (
    <Pane label="Golden records without a row" className="flex-1 px-4">
      <Faces query={golden}>
        {(data) => {
          const rows = data.pages.flatMap((page) => page.rows);
          if (rows.length === 0) return <Empty title="Every golden record has its row, or there is none yet." />;
          return (
            <>
              <table className="w-full text-sm">
                <thead>
                  <Heads titles={["Key", "Name", "Records", ...fields.map(({ label }) => label)]} />
                </thead>
                <tbody>
                  {rows.map((row) => (
                    <tr key={row.key}>
                      <td className={CELL}>
                        <Link to={`/r/${slug}/golden/${row.key}`} className="font-mono text-plum hover:underline">
                          {row.key}
                        </Link>
                      </td>
                      <td className={CELL}>{nameOf(row.values)}</td>
                      <td className={`${CELL} font-mono`}>{row.records}</td>
                      {fields.map((field) => (
                        <td key={field.name} className={CELL}>
                          {row.values[field.name]}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
              {golden.hasNextPage && (
                <Button
                  className="my-3"
                  disabled={golden.isFetchingNextPage}
                  onClick={() => void golden.fetchNextPage()}
                >
                  Further golden records
                </Button>
              )}
            </>
          );
        }}
      </Faces>
    </Pane>
  );
}

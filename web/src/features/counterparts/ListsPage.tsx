import { useState } from "react";
import { Link, useParams } from "react-router";
import { count, moment } from "../../domain/format";
import { Button, CELL, Empty, Faces, Heads, Page, Pane } from "../../ui";
import { NewListDialog } from "./NewListDialog";
import { type CounterpartList, OUTCOMES, useLists } from "./queries";

const TITLES = ["List", "File", "Rows", ...OUTCOMES, "Looked up"];

/** The files whose rows are looked up in this register. */
export function ListsPage() {
  const { slug = "" } = useParams();
  const [making, setMaking] = useState(false);
  const lists = useLists(slug);
  return (
    <Page
      title="Counterparts"
      about="Files whose rows are looked up here: which record each row means, or none. Neither side is changed."
      actions={
        <Button needs="pair up" look="main" onClick={() => setMaking(true)}>
          Look a file up…
        </Button>
      }
    >
      <Pane label="Counterpart lists" className="h-full px-4">
        <Faces query={lists}>
          {(data) =>
            data.length === 0 ? (
              <Empty title="No file was looked up yet.">
                <p>
                  Take a file of names, with whatever else it holds. Every row gets its counterpart of this register
                  with score and reason, several where they are as good, or an honest none.
                </p>
              </Empty>
            ) : (
              <table className="w-full text-sm">
                <thead>
                  <Heads titles={TITLES} />
                </thead>
                <tbody>
                  {data.map((list) => (
                    <ListRow key={list.name} slug={slug} list={list} />
                  ))}
                </tbody>
              </table>
            )
          }
        </Faces>
      </Pane>
      {making && <NewListDialog slug={slug} onClose={() => setMaking(false)} />}
    </Page>
  );
}

function ListRow({ slug, list }: { slug: string; list: CounterpartList }) {
  const to = `/r/${slug}/counterparts/${encodeURIComponent(list.name)}`;
  const { counts } = list;
  return (
    <tr>
      <td className={CELL}>
        <Link to={to} className="font-medium text-plum hover:underline">
          {list.name}
        </Link>
      </td>
      <td className={CELL}>{list.file_name}</td>
      <td className={`${CELL} font-mono`}>{counts ? count(Object.values(counts).reduce((a, b) => a + b, 0)) : ""}</td>
      {OUTCOMES.map((outcome) => (
        <td key={outcome} className={`${CELL} font-mono`}>
          {counts && (
            <Link to={`${to}?outcome=${outcome}`} className="text-plum hover:underline">
              {count(counts[outcome] ?? 0)}
            </Link>
          )}
        </td>
      ))}
      <td className={CELL}>
        {list.ran_at ? moment(list.ran_at) : "not yet"}
        {list.ran_at && list.stale && <span className="text-rust"> · the register changed since</span>}
      </td>
    </tr>
  );
}

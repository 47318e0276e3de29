import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { count } from "../../../domain/format";
import { Button, Empty, Faces, Page, Pane } from "../../../ui";
import { TidyNav } from "../TidyNav";
import { NewTable } from "./NewTable";
import { useTable, useTables } from "./queries";
import { TableEditor } from "./TableEditor";

function Chosen({ slug, name }: { slug: string; name: string }) {
  return (
    <Faces query={useTable(name)}>
      {(table) => <TableEditor key={`${table.name} ${table.version}`} slug={slug} table={table} />}
    </Faces>
  );
}

/** Swap lists and value maps, shared by all registers. */
export function TablesPage() {
  const { slug = "", table = "" } = useParams();
  const [making, setMaking] = useState(false);
  const tables = useTables();
  const navigate = useNavigate();
  const home = `/r/${slug}/tidy/tables`;
  const name = table || tables.data?.tables[0]?.name || "";
  return (
    <Page
      title="Tidy"
      about={<TidyNav />}
      actions={
        <Button needs="tidy" everywhere look="main" onClick={() => setMaking(true)}>
          Make a table
        </Button>
      }
    >
      <Faces query={tables}>
        {(list) =>
          list.tables.length === 0 ? (
            <Empty title="There are no swap lists or value maps yet.">
              <p>
                A swap list replaces words within values (Ltd by Limited), a value map whole values (Norge by NO). Both
                are used by tidy steps. Ready-made ones can be taken over and changed.
              </p>
            </Empty>
          ) : (
            <div className="grid h-full min-h-0 grid-cols-[13rem_1fr]">
              <Pane label="Tables" className="border-r border-line py-2">
                {list.tables.map((item) => (
                  <Link
                    key={item.name}
                    to={`${home}/${encodeURIComponent(item.name)}`}
                    aria-current={item.name === name ? "page" : undefined}
                    className="block px-4 py-1 text-sm hover:bg-plum-wash aria-[current=page]:bg-plum-wash aria-[current=page]:font-semibold"
                  >
                    {item.name}
                    <span className="block text-xs font-normal text-soft">
                      {item.kind}, {count(item.entries)}
                    </span>
                  </Link>
                ))}
              </Pane>
              <Chosen slug={slug} name={name} />
            </div>
          )
        }
      </Faces>
      {making && (
        <NewTable
          slug={slug}
          readyMade={tables.data?.ready_made ?? []}
          onMade={(made) => {
            setMaking(false);
            navigate(`${home}/${encodeURIComponent(made)}`);
          }}
          onClose={() => setMaking(false)}
        />
      )}
    </Page>
  );
}

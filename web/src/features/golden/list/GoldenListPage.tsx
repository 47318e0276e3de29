import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { useLayout } from "../../../api/registers";
import { useSources } from "../../../api/sources";
import { count, counted } from "../../../domain/format";
import { Button, Empty, Faces, LinkButton, notify, Page, Paging, Pane, Search } from "../../../ui";
import { ColumnsDialog } from "./ColumnsDialog";
import { allColumns, shownColumns } from "./columns";
import { asCsv } from "./copy";
import { Filters, SetFilters } from "./Filters";
import { GoldenTable } from "./GoldenTable";
import { useGoldenList } from "./queries";
import { asked, type ListQuery, readQuery, writeQuery } from "./query";
import { ViewsDialog } from "./Views";

function Nothing({ slug, asksForSome }: { slug: string; asksForSome: boolean }) {
  return (
    <Empty title={asksForSome ? "No golden record fits." : "There are no golden records yet."}>
      {!asksForSome && (
        <>
          <p>A merge makes one for every cluster of the latest run. You see first what it will do.</p>
          <LinkButton needs="see" look="main" to={`/r/${slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </>
      )}
    </Empty>
  );
}

/** All golden records of a register: searched, filtered, ordered, with columns of one's choice. */
export function GoldenListPage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const [open, setOpen] = useState<"" | "columns" | "views">("");
  const [filtering, setFiltering] = useState(false);
  const query = readQuery(params);
  const list = useGoldenList(slug, query);
  const fields = useLayout(slug).data?.fields ?? [];
  const sources = (useSources(slug).data ?? []).map(({ name }) => name);
  const labels = Object.fromEntries(fields.map(({ name, label }) => [name, label]));
  const columns = shownColumns(fields, query.columns);
  const found = list.data;
  const asksForSome = Object.keys(asked(query)).length > 0;
  const change = (values: Partial<ListQuery>) =>
    setParams(writeQuery({ ...query, page: "", ...values }), { replace: !("page" in values) });
  const copy = async () => {
    const { text, rows, more } = await asCsv(slug, query, columns);
    await navigator.clipboard.writeText(text);
    notify(
      `${more ? "The first " : ""}${counted(rows, "golden record")} copied as CSV.${more ? " Send out takes all." : ""}`,
    );
  };
  return (
    <Page
      title="Golden records"
      about={
        found && (
          <span className="flex flex-wrap items-center gap-2">
            {`${found.at_least ? "more than " : ""}${count(found.total)} ${asksForSome ? "found" : "in force"}`}
            {found.by_sound && <span className="text-ink">None is spelled like that; these sound alike.</span>}
            {found.contradictory > 0 && !query.contradictory && (
              <button type="button" className="text-rust underline" onClick={() => change({ contradictory: true })}>
                {count(found.contradictory)} contradictory
              </button>
            )}
            <SetFilters query={query} labels={labels} onChange={change} />
          </span>
        )
      }
      actions={
        <>
          <Search label="Search keys and values" value={query.search} onChange={(search) => change({ search })} />
          <Button aria-expanded={filtering} onClick={() => setFiltering(!filtering)}>
            Filters
          </Button>
          <Button onClick={() => setOpen("columns")}>Columns</Button>
          <Button onClick={() => setOpen("views")}>Views</Button>
          <Button disabled={!found?.total} onClick={() => void copy().catch((error: Error) => notify(error.message))}>
            Copy
          </Button>
          <Paging page={found} onTurn={(page) => change({ page })} />
          <LinkButton needs="see" to={`/r/${slug}/golden/rules`}>
            Survivorship
          </LinkButton>
          <LinkButton needs="see" look="main" to={`/r/${slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col">
        {filtering && (
          <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5 border-b border-line bg-sunk px-4 py-2 text-sm">
            <Filters query={query} fields={fields} sources={sources} onChange={change} />
          </div>
        )}
        <Pane label="Golden records" className="flex-1 px-4">
          <Faces query={list}>
            {({ golden }) =>
              golden.length === 0 ? (
                <Nothing slug={slug} asksForSome={asksForSome} />
              ) : (
                <GoldenTable
                  slug={slug}
                  lines={golden}
                  columns={columns}
                  query={query}
                  labels={labels}
                  onSort={(sorts, turned) => change({ ...sorts, turned })}
                />
              )
            }
          </Faces>
        </Pane>
      </div>
      {open === "columns" && (
        <ColumnsDialog
          all={allColumns(fields)}
          shown={columns.map(({ name }) => name)}
          onChange={(chosen) => change({ columns: chosen })}
          onClose={() => setOpen("")}
        />
      )}
      {open === "views" && <ViewsDialog slug={slug} query={query} onClose={() => setOpen("")} />}
    </Page>
  );
}

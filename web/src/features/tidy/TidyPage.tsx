import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";
import { client, unwrap } from "../../api/client";
import { keepWithin, keys } from "../../api/keys";
import { count } from "../../domain/format";
import { Button, Choice, Empty, Faces, LinkButton, Page, Pane, Search } from "../../ui";
import { RecordTable } from "./RecordTable";
import { TidyNav } from "./TidyNav";

const PAGE = 100;

function useRecords(slug: string, search: string, source: string, offset: number) {
  return useQuery({
    queryKey: keys.of(slug, "records", search, source, offset),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/records", {
          params: { path: { slug }, query: { search, source, offset, limit: PAGE } },
        }),
      ),
    placeholderData: keepWithin(slug),
  });
}

function useSourceOptions(slug: string) {
  const sources = useQuery({
    queryKey: keys.of(slug, "sources"),
    queryFn: () => unwrap(client.GET("/api/registers/{slug}/sources", { params: { path: { slug } } })),
  });
  return [
    { value: "", label: "All sources" },
    ...(sources.data ?? []).map(({ name }) => ({ value: name, label: name })),
  ];
}

/** Every source record: delivered values, and beside them what matching compares. */
export function TidyPage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const search = params.get("search") ?? "";
  const source = params.get("source") ?? "";
  const offset = Number(params.get("from") ?? 0) || 0;
  const records = useRecords(slug, search, source, offset);
  const options = useSourceOptions(slug);
  const change = (name: string, value: string) =>
    setParams(
      (present) => {
        if (name !== "from") present.delete("from");
        if (value) present.set(name, value);
        else present.delete(name);
        return present;
      },
      { replace: true },
    );
  const total = records.data?.total ?? 0;
  return (
    <Page
      title="Tidy"
      about={<TidyNav />}
      actions={
        <>
          <Search label="Search delivered values" value={search} onChange={(value) => change("search", value)} />
          <Choice
            label="Source"
            value={source}
            options={options}
            onChange={(value) => change("source", value)}
            className="w-36"
          />
          <span className="text-sm text-soft">
            {total > 0
              ? `${count(offset + 1)} to ${count(Math.min(offset + PAGE, total))} of ${count(total)}`
              : "no records"}
          </span>
          <Button disabled={offset === 0} onClick={() => change("from", String(Math.max(0, offset - PAGE)))}>
            Earlier
          </Button>
          <Button disabled={offset + PAGE >= total} onClick={() => change("from", String(offset + PAGE))}>
            Further
          </Button>
        </>
      }
    >
      <Pane label="Source records" className="h-full px-4">
        <Faces query={records}>
          {(page) =>
            page.records.length === 0 ? (
              <Empty title={search || source ? "No record fits." : "There are no records yet."}>
                {!search && !source && <LinkButton to={`/r/${slug}/bring-in`}>Bring in a delivery</LinkButton>}
              </Empty>
            ) : (
              <RecordTable slug={slug} records={page.records} />
            )
          }
        </Faces>
      </Pane>
    </Page>
  );
}

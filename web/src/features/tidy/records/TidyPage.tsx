import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { client, unwrap } from "../../../api/client";
import { keepWithin, keys } from "../../../api/keys";
import { useLayout } from "../../../api/registers";
import { useSources } from "../../../api/sources";
import { counted } from "../../../domain/format";
import { Button, Choice, Empty, Faces, LinkButton, Page, Paging, Pane, Search } from "../../../ui";
import { TidyNav } from "../TidyNav";
import { CorrectValuesDialog } from "./CorrectValuesDialog";
import { RecordTable } from "./RecordTable";

const PAGE = 100;
/** What a number of the profile asks of a field's value. */
const SAYS: Record<string, string> = {
  filled: "is filled",
  empty: "is empty",
  value: "is",
  shape: "has the shape",
  length: "has as many letters as",
  single: "stands in one record only",
  invalid: "is not valid",
  rule: "fails the rule",
  "odd letters": "has odd letters:",
};

interface Filter {
  search: string;
  source: string;
  delivery: number;
  field: string;
  check: string;
  wanted: string;
  run: number;
  pass: number;
  outcome: string;
}

/** What of the address says which records are shown, but for words and source. */
function behindNumber(params: URLSearchParams) {
  const number = (name: string, least: number) => Math.max(Number(params.get(name)) || least, least);
  return {
    field: params.get("field") ?? "",
    check: params.get("check") ?? "filled",
    wanted: params.get("wanted") ?? "",
    delivery: number("delivery", 0),
    run: number("run", 0),
    pass: number("pass", 1),
    outcome: params.get("outcome") ?? "in",
  };
}

function useRecords(slug: string, filter: Filter, cursor: string) {
  return useQuery({
    queryKey: keys.of(slug, "records", ...Object.values(filter), cursor),
    queryFn: () =>
      unwrap(
        client.GET("/api/registers/{slug}/records", {
          params: { path: { slug }, query: { ...filter, cursor, limit: PAGE } },
        }),
      ),
    placeholderData: keepWithin(slug),
  });
}

function useSourceOptions(slug: string) {
  const sources = useSources(slug);
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
  const cursor = params.get("page") ?? "";
  const behind = behindNumber(params);
  const { field, delivery, check, wanted, run } = behind;
  const label = useLayout(slug).data?.fields.find(({ name }) => name === field)?.label ?? field;
  const [correcting, setCorrecting] = useState(false);
  const records = useRecords(slug, { search, source, ...behind }, cursor);
  const options = useSourceOptions(slug);
  const change = (name: string, value: string) =>
    setParams(
      (present) => {
        if (name !== "page") present.delete("page");
        if (name === "field")
          for (const other of ["check", "wanted", "delivery", "run", "pass", "outcome"]) present.delete(other);
        if (value) present.set(name, value);
        else present.delete(name);
        return present;
      },
      { replace: name !== "page" },
    );
  const page = records.data;
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
            {page && `${page.at_least ? "more than " : ""}${counted(page.total, "record")}`}
          </span>
          <Paging page={page} onTurn={(turned) => change("page", turned)} />
        </>
      }
    >
      <Pane label="Source records" className="h-full px-4">
        <p className="flex items-center gap-3 pt-2 text-sm text-soft">
          {field || delivery || run ? (
            <>
              <span>
                Only records {delivery > 0 && `of delivery ${delivery} `}
                {run > 0 && `that were "${behind.outcome}" in pass ${behind.pass} of run ${run} `}
                {field && (
                  <>
                    where <strong className="font-semibold text-ink">{label}</strong> {SAYS[check] ?? check}
                  </>
                )}
                {wanted && " "}
                {wanted && <code className="font-mono text-ink">{wanted}</code>}
              </span>
              {field && !search && !delivery && (
                <Button needs="correct" small onClick={() => setCorrecting(true)}>
                  Correct these values…
                </Button>
              )}
              <Button look="quiet" small onClick={() => change("field", "")}>
                Show all
              </Button>
            </>
          ) : (
            "Delivered values stay as they came; below each stands the tidy value that is compared."
          )}
        </p>
        <Faces query={records}>
          {(data) =>
            data.records.length === 0 ? (
              <Empty title={search || source || field || run ? "No record fits." : "There are no records yet."}>
                {!search && !source && !field && !run && (
                  <LinkButton to={`/r/${slug}/bring-in`}>Bring in a delivery</LinkButton>
                )}
              </Empty>
            ) : (
              <RecordTable slug={slug} records={data.records} labels={data.labels} asked={field} />
            )
          }
        </Faces>
      </Pane>
      {correcting && (
        <CorrectValuesDialog
          label={label}
          slug={slug}
          filter={{ field, check, wanted, source }}
          onClose={() => setCorrecting(false)}
        />
      )}
    </Page>
  );
}

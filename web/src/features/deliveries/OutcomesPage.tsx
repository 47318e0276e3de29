import { Link, useParams, useSearchParams } from "react-router";
import { useLayout } from "../../api/registers";
import { count, counted, nameOf } from "../../domain/format";
import { isOutcome, OUTCOMES, type Outcome, outcomesOf, WITHOUT_PARENT } from "../../domain/outcomes";
import { Button, CELL, Empty, Faces, Heads, LinkButton, Page, Pane, Tabs } from "../../ui";
import { type OutcomeRecord, useOutcomes, useRecordsOfOutcome } from "./outcomeQueries";

/** What came of a delivery once it was recognised: records by outcome, each with its golden record. */
export function OutcomesPage() {
  const { slug = "", deliveryId = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const outcomes = useOutcomes(slug, Number(deliveryId));
  return (
    <Page
      title={`What came of ${outcomes.data?.file_name ?? "a delivery"}`}
      about={outcomes.data && `Every record of this delivery of ${outcomes.data.source}, by what became of it`}
      actions={<LinkButton to={`/r/${slug}/bring-in`}>Back to the deliveries</LinkButton>}
    >
      <Faces query={outcomes}>
        {({ counts, fields }) => {
          const told = outcomesOf(counts);
          const asked = params.get("outcome") ?? "";
          const outcome = isOutcome(asked) ? asked : (told[0]?.[0] ?? "added");
          return (
            <div className="flex h-full min-h-0 flex-col">
              <div className="flex flex-wrap items-center gap-4 px-2">
                <Tabs
                  label="Outcomes"
                  tabs={told.map(([tab, figure]) => ({ tab, label: tab, title: OUTCOMES[tab], figure }))}
                  chosen={outcome}
                  onChoose={(tab) => setParams({ outcome: tab }, { replace: true })}
                />
                <WithoutParent slug={slug} number={counts[WITHOUT_PARENT] ?? 0} />
              </div>
              <p className="px-4 py-2 text-sm text-soft">
                {OUTCOMES[outcome]}
                {outcome === "updated" && `; changed: ${fieldsInWords(fields)}`}
              </p>
              <Pane label={`Records ${outcome}`} className="min-h-0 flex-1 px-4">
                <Records slug={slug} deliveryId={Number(deliveryId)} outcome={outcome} />
              </Pane>
            </div>
          );
        }}
      </Faces>
    </Page>
  );
}

function WithoutParent({ slug, number }: { slug: string; number: number }) {
  if (!number) return null;
  return (
    <Link className="text-sm text-plum underline" to={`/r/${slug}/tidy/references`}>
      {counted(number, "record")} without a parent
    </Link>
  );
}

function fieldsInWords(fields: Readonly<Record<string, number>>): string {
  return Object.entries(fields)
    .map(([field, number]) => `${field} in ${count(number)}`)
    .join(", ");
}

function Records({ slug, deliveryId, outcome }: { slug: string; deliveryId: number; outcome: Outcome }) {
  const records = useRecordsOfOutcome(slug, deliveryId, outcome);
  const labels = new Map(useLayout(slug).data?.fields.map(({ name, label }) => [name, label]));
  return (
    <Faces query={records}>
      {({ pages }) => {
        const rows = pages.flat();
        return rows.length === 0 ? (
          <Empty title="No record came out like this." />
        ) : (
          <>
            <table className="w-full text-sm">
              <thead>
                <Heads titles={["Source's id", "Name", "Where, how to reach", "Changed", "Golden record"]} />
              </thead>
              <tbody>
                {rows.map((row) => (
                  <Row key={row.id} slug={slug} row={row} labels={labels} />
                ))}
              </tbody>
            </table>
            {records.hasNextPage && (
              <Button className="my-2" disabled={records.isFetchingNextPage} onClick={() => records.fetchNextPage()}>
                Show more
              </Button>
            )}
          </>
        );
      }}
    </Faces>
  );
}

function Row({ slug, row, labels }: { slug: string; row: OutcomeRecord; labels: ReadonlyMap<string, string> }) {
  const { fields } = row;
  const shown = ["address.line", "address.postcode", "address.city", "phone", "email"].map((name) => fields[name]);
  return (
    <tr>
      <td className={`${CELL} font-mono`}>{row.source_key}</td>
      <td className={`${CELL} font-medium`}>{nameOf(fields) || "no name"}</td>
      <td className={CELL}>{shown.filter(Boolean).join(" · ")}</td>
      <td className={CELL}>{row.changed.map((field) => labels.get(field) ?? field).join(", ")}</td>
      <td className={CELL}>
        {row.golden_key ? (
          <Link className="font-mono text-plum underline" to={`/r/${slug}/golden/${row.golden_key}`}>
            {row.golden_key}
          </Link>
        ) : (
          <span className="text-soft">none</span>
        )}
      </td>
    </tr>
  );
}

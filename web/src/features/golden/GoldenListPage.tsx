import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { count, moment, nameOf } from "../../domain/format";
import { Button, CELL, Choice, Empty, Faces, HEAD, LinkButton, Page, Paging, Pane, Search } from "../../ui";
import { type ListOrder, useGoldenList } from "./queries";
import { RulesDialog } from "./RulesDialog";

const PAGE = 100;
const ORDERS = [
  { value: "members", label: "Most records first" },
  { value: "changed", label: "Latest change first" },
  { value: "name", label: "By name" },
  { value: "key", label: "By key" },
] as const;

function Lines({ slug, search, order, cursor }: { slug: string; search: string; order: ListOrder; cursor: string }) {
  const list = useGoldenList(slug, search, order, cursor, PAGE);
  return (
    <Faces query={list}>
      {({ golden }) =>
        golden.length === 0 ? (
          <Empty title={search ? "No golden record fits." : "There are no golden records yet."}>
            {!search && (
              <>
                <p>A merge makes one for every cluster of the latest run. You see first what it will do.</p>
                <LinkButton look="main" to={`/r/${slug}/golden/merge`}>
                  Preview the merge
                </LinkButton>
              </>
            )}
          </Empty>
        ) : (
          <table className="w-full text-sm">
            <thead>
              <tr>
                {["Key", "Name", "Town", "Country", "Phone", "E-mail", "Records", "Pinned", "Changed"].map((title) => (
                  <th key={title} scope="col" className={`${HEAD} ${title === "Records" ? "text-right" : ""}`}>
                    {title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {golden.map((line) => (
                <tr key={line.key}>
                  <td className={`${CELL} font-mono whitespace-nowrap`}>
                    <Link className="text-plum underline" to={`/r/${slug}/golden/${line.key}`}>
                      {line.key}
                    </Link>
                  </td>
                  <td className={`${CELL} font-medium`}>{nameOf(line.values)}</td>
                  <td className={`${CELL} whitespace-nowrap`}>{line.values["address.city"]}</td>
                  <td className={`${CELL} whitespace-nowrap`}>{line.values["address.country"]}</td>
                  <td className={`${CELL} whitespace-nowrap`}>{line.values.phone}</td>
                  <td className={CELL}>{line.values.email}</td>
                  <td className={`${CELL} text-right`}>{line.records}</td>
                  <td className={CELL}>{line.pinned.join(", ")}</td>
                  <td className={`${CELL} whitespace-nowrap text-soft`}>{moment(line.updated_at).slice(0, 10)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )
      }
    </Faces>
  );
}

/** All golden records of a register. */
export function GoldenListPage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const [ruling, setRuling] = useState(false);
  const search = params.get("search") ?? "";
  const order = ORDERS.find(({ value }) => value === params.get("order"))?.value ?? "members";
  const cursor = params.get("page") ?? "";
  const list = useGoldenList(slug, search, order, cursor, PAGE).data;
  const change = (values: Record<string, string>) =>
    setParams({ ...Object.fromEntries(params), page: "", ...values }, { replace: !("page" in values) });
  return (
    <Page
      title="Golden records"
      about={list && `${list.at_least ? "more than " : ""}${count(list.total)} ${search ? "found" : "in force"}`}
      actions={
        <>
          <Search label="Search keys and values" value={search} onChange={(value) => change({ search: value })} />
          <Choice
            label="Order"
            value={order}
            options={ORDERS}
            onChange={(value) => change({ order: value })}
            className="w-44"
          />
          <Paging page={list} onTurn={(page) => change({ page })} />
          <Button onClick={() => setRuling(true)}>Survivorship rules</Button>
          <LinkButton look="main" to={`/r/${slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </>
      }
    >
      <Pane label="Golden records" className="h-full px-4">
        <Lines slug={slug} search={search} order={order} cursor={cursor} />
      </Pane>
      {ruling && <RulesDialog slug={slug} onClose={() => setRuling(false)} />}
    </Page>
  );
}

import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { count, moment, nameOf } from "../../domain/format";
import { Button, CELL, Choice, Empty, Faces, HEAD, LinkButton, Page, Pane, Search } from "../../ui";
import { type ListOrder, useGoldenList } from "./queries";
import { RulesDialog } from "./RulesDialog";

const PAGE = 100;
const ORDERS = [
  { value: "members", label: "Most records first" },
  { value: "changed", label: "Latest change first" },
  { value: "name", label: "By name" },
  { value: "key", label: "By key" },
] as const;

function Lines({ slug, search, order, offset }: { slug: string; search: string; order: ListOrder; offset: number }) {
  const list = useGoldenList(slug, search, order, offset, PAGE);
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
  const offset = Number(params.get("from") ?? 0) || 0;
  const total = useGoldenList(slug, search, order, offset, PAGE).data?.total ?? 0;
  const change = (values: Record<string, string>) =>
    setParams({ ...Object.fromEntries(params), from: "", ...values }, { replace: true });
  return (
    <Page
      title="Golden records"
      about={`${count(total)} in force`}
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
          <Button disabled={offset === 0} onClick={() => change({ from: String(Math.max(0, offset - PAGE)) })}>
            Earlier
          </Button>
          <Button disabled={offset + PAGE >= total} onClick={() => change({ from: String(offset + PAGE) })}>
            Further
          </Button>
          <Button onClick={() => setRuling(true)}>Survivorship rules</Button>
          <LinkButton look="main" to={`/r/${slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </>
      }
    >
      <Pane label="Golden records" className="h-full px-4">
        <Lines slug={slug} search={search} order={order} offset={offset} />
      </Pane>
      {ruling && <RulesDialog slug={slug} onClose={() => setRuling(false)} />}
    </Page>
  );
}

import { useEffect } from "react";
import { useParams, useSearchParams } from "react-router";
import { useRegister } from "../../api/registers";
import { moment, nameOf } from "../../domain/format";
import { Button, CELL, Faces, Heads, Page, Pane } from "../../ui";
import { type Finding, type State, useFindings, useFindingsPlan } from "./queries";

/** All findings as one page for paper: what is shared, who shares it, how it stands and why. */
export function ReportPage() {
  const { slug = "", plan: name = "" } = useParams();
  const [params] = useSearchParams();
  const state = (params.get("state") ?? "") as State | "";
  const plan = useFindingsPlan(slug, name);
  const own = useRegister(slug)?.name ?? slug;
  const query = useFindings(slug, name, state, 500);
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = query;
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  const findings = query.data?.pages.flatMap((page) => page.rows) ?? [];
  return (
    <Page
      title={`Findings: ${name}`}
      about={
        plan.data &&
        `${own} against ${plan.data.other_name}, ${state || "all"} (${findings.length}), run ${plan.data.ran_at ? moment(plan.data.ran_at) : "not yet"}`
      }
      actions={
        <Button look="main" className="print:hidden" disabled={hasNextPage} onClick={() => window.print()}>
          Print
        </Button>
      }
    >
      <Pane label="Report" className="h-full px-4 print:overflow-visible">
        <Faces query={query}>
          {() => (
            <table className="w-full text-sm">
              <thead>
                <Heads
                  titles={["Shared", own, plan.data?.other_name ?? "Other register", "Hold it", "State", "Reason"]}
                />
              </thead>
              <tbody>
                {findings.map((finding) => (
                  <Line key={finding.place} finding={finding} />
                ))}
              </tbody>
            </table>
          )}
        </Faces>
      </Pane>
    </Page>
  );
}

function Line({ finding }: { finding: Finding }) {
  return (
    <tr className="break-inside-avoid">
      <td className={CELL}>
        {finding.things.map((thing) => (
          <span key={`${thing.title} ${thing.value}`} className="block">
            {thing.title}: <span className="font-mono">{thing.value}</span>
          </span>
        ))}
      </td>
      {[finding.one, finding.other].map((of) => (
        <td key={of.record_id} className={CELL}>
          {nameOf(of.values)}
          <span className="block font-mono text-xs text-soft">{of.golden_key || `${of.source} ${of.source_key}`}</span>
        </td>
      ))}
      <td className={`${CELL} font-mono`}>
        {finding.things.map((thing) => (
          <span
            key={`${thing.title} ${thing.value}`}
            className="block"
          >{`${thing.one_holders} + ${thing.other_holders}`}</span>
        ))}
      </td>
      <td className={CELL}>
        {finding.state}
        {finding.said_by && <span className="block text-xs text-soft">{finding.said_by}</span>}
      </td>
      <td className={CELL}>{finding.remark || finding.again}</td>
    </tr>
  );
}

import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { count, counted } from "../../domain/format";
import { Button, CELL, Faces, Heads, LinkButton, Page, Pane } from "../../ui";
import { MendDialog } from "./MendDialog";
import { REJECTED_PAGE, usePreview, useRejected } from "./queries";

type Rejected = Schemas["RejectedOut"];

function RejectedTable({ rows, onMend }: { rows: readonly Rejected[]; onMend: ((row: Rejected) => void) | null }) {
  return (
    <table className="w-full text-sm">
      <thead>
        <Heads titles={["Row", "Column", "Reason", "What stands there", ""]} unseen="Mend" />
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.id} className={row.mended_at ? "text-soft" : ""}>
            <td className={`${CELL} font-mono`}>{row.row_number}</td>
            <td className={CELL}>{row.column_name || "whole row"}</td>
            <td className={CELL}>{row.reason}</td>
            <td className={`${CELL} font-mono text-xs break-all`}>{row.value}</td>
            <td className={`${CELL} text-right whitespace-nowrap`}>
              {row.mended_at
                ? "brought in"
                : onMend && (
                    <Button
                      needs="correct"
                      look="quiet"
                      small
                      aria-label={`Mend row ${row.row_number}`}
                      onClick={() => onMend(row)}
                    >
                      Mend
                    </Button>
                  )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The rows that were set aside, each with row, column and reason; mended ones join their delivery. */
export function RejectedPage() {
  const { slug = "", deliveryId = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const [mending, setMending] = useState<Rejected | null>(null);
  const offset = Number(params.get("from") ?? 0) || 0;
  const preview = usePreview(slug, Number(deliveryId));
  const rejected = useRejected(slug, Number(deliveryId), offset);
  const { total = 0, waiting = 0 } = rejected.data ?? {};
  const from = (start: number) => setParams(start > 0 ? { from: String(start) } : {}, { replace: true });
  return (
    <Page
      title={`Rows set aside: ${preview.data?.delivery.file_name ?? ""}`}
      about={rejected.data && `${counted(total, "row")}, ${count(waiting)} to be mended; all other rows were loaded`}
      actions={
        <>
          {total > REJECTED_PAGE && (
            <>
              <Button disabled={offset === 0} onClick={() => from(offset - REJECTED_PAGE)}>
                Earlier
              </Button>
              <Button disabled={offset + REJECTED_PAGE >= total} onClick={() => from(offset + REJECTED_PAGE)}>
                Further
              </Button>
            </>
          )}
          <a
            className="inline-flex h-8 items-center rounded-[3px] border border-line-strong bg-sheet px-2.5 text-sm font-medium hover:bg-plum-wash"
            href={`/api/deliveries/${deliveryId}/rejected.csv`}
          >
            Download as CSV
          </a>
          <LinkButton to={`/r/${slug}/bring-in`}>Back to the deliveries</LinkButton>
        </>
      }
    >
      <Pane label="Rows set aside" className="h-full px-4">
        <Faces query={rejected}>
          {({ rows }) => (
            <RejectedTable rows={rows} onMend={preview.data?.delivery.status === "loaded" ? setMending : null} />
          )}
        </Faces>
      </Pane>
      {mending && preview.data && (
        <MendDialog
          slug={slug}
          columns={preview.data.delivery.columns}
          row={mending}
          onClose={() => setMending(null)}
        />
      )}
    </Page>
  );
}

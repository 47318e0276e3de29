import { useParams } from "react-router";
import { counted } from "../../domain/format";
import { CELL, Faces, HEAD, LinkButton, Page, Pane } from "../../ui";
import { usePreview, useRejected } from "./queries";

/** The rows that were set aside, each with row, column and reason. */
export function RejectedPage() {
  const { slug = "", deliveryId = "" } = useParams();
  const preview = usePreview(slug, Number(deliveryId));
  const rejected = useRejected(slug, Number(deliveryId));
  return (
    <Page
      title={`Rows set aside: ${preview.data?.delivery.file_name ?? ""}`}
      about={rejected.data && `${counted(rejected.data.length, "row")}; all other rows were loaded`}
      actions={
        <>
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
          {(rows) => (
            <table className="w-full text-sm">
              <thead>
                <tr>
                  {["Row", "Column", "Reason", "What stands there"].map((title) => (
                    <th key={title} scope="col" className={HEAD}>
                      {title}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((row, place) => (
                  <tr key={place}>
                    <td className={`${CELL} font-mono`}>{row.row_number}</td>
                    <td className={CELL}>{row.column_name || "whole row"}</td>
                    <td className={CELL}>{row.reason}</td>
                    <td className={`${CELL} font-mono text-xs break-all`}>{row.value}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </Faces>
      </Pane>
    </Page>
  );
}

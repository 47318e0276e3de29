import { Link, useNavigate, useParams } from "react-router";
import { useRegister } from "../../api/registers";
import { counted, nameOf } from "../../domain/format";
import { Button, CELL, Empty, Faces, HEAD, notify, Page, Pane } from "../../ui";
import { type MergePreview, useMergePreview, useStartMerge } from "./queries";

function total(preview: MergePreview): number {
  return preview.made + preview.grown + preview.joined + preview.split;
}

function Sentences({ preview, slug }: { preview: MergePreview; slug: string }) {
  const lines = [
    preview.made > 0 &&
      `${counted(preview.made, "golden record")} will be made, ${preview.single} of them from a single record.`,
    preview.grown > 0 && `${counted(preview.grown, "golden record")} will take in more records.`,
    preview.joined > 0 &&
      `${counted(preview.joined, "merge")} will put several golden records together; the old keys lead to the one that stays.`,
    preview.split > 0 && `${counted(preview.split, "golden record")} will be split.`,
    preview.records_added > 0 &&
      `${counted(preview.records_added, "record")} will get a golden record for the first time.`,
    preview.contradictions > 0 &&
      `${counted(preview.contradictions, "decision")} contradict others and will not be followed.`,
    preview.to_sign > 0 &&
      `${counted(preview.to_sign, "golden record")} would hold more records than without sign-off: each is proposed by itself, and waits for a second yes.`,
    preview.torn > 0 &&
      `${counted(preview.torn, "pair")} decided as different lie in one cluster of the latest run: those clusters stay as they are until a new run follows the decisions.`,
  ].filter(Boolean);
  return (
    <div className="py-3">
      <ul className="list-disc space-y-0.5 pl-5">
        {lines.map((line) => (
          <li key={String(line)}>{line}</li>
        ))}
      </ul>
      {preview.unsure_waiting > 0 && (
        <p className="mt-2 text-sm">
          {counted(preview.unsure_waiting, "pair")} still in doubt will stay apart for now.{" "}
          <Link className="text-plum underline" to={`/r/${slug}/review`}>
            Review them first
          </Link>
        </p>
      )}
    </div>
  );
}

function Sample({ sample }: { sample: MergePreview["sample"][number] }) {
  const columns = ["name", "address.line", "address.city", "phone", "email", "tax_number"];
  return (
    <tbody className="border-b-2 border-line-strong">
      <tr className="bg-plum-wash">
        <th scope="rowgroup" className="px-2 py-1 text-left font-semibold">
          {sample.summary}
        </th>
        <td className="px-2 py-1 font-semibold">{nameOf(sample.values)}</td>
        {columns.slice(1).map((name) => (
          <td key={name} className="max-w-56 truncate px-2 py-1">
            {sample.values[name]}
          </td>
        ))}
      </tr>
      {sample.records.map((record) => (
        <tr key={`${record.source}-${record.source_key}`}>
          <td className={`${CELL} pl-5 whitespace-nowrap text-soft`}>
            {record.source} <span className="font-mono text-xs">{record.source_key}</span>
          </td>
          <td className={CELL}>{nameOf(record)}</td>
          {columns.slice(1).map((name) => (
            <td key={name} className={`${CELL} max-w-56 truncate`}>
              {record[name]}
            </td>
          ))}
        </tr>
      ))}
    </tbody>
  );
}

/** What a merge will do, before it is done: counts and the largest changes. */
export function MergePage() {
  const { slug = "" } = useParams();
  const register = useRegister(slug);
  const preview = useMergePreview(slug);
  const start = useStartMerge(slug);
  const navigate = useNavigate();
  const merge = () =>
    start.mutate(preview.data?.seen ?? "", {
      onSuccess: () => navigate(`/r/${slug}/golden`),
      onError: (error) => notify(error, true),
    });
  const changes = preview.data ? total(preview.data) : 0;
  return (
    <Page
      title="Merge preview"
      about={
        register && register.run_due.length > 0
          ? `Mind: ${register.run_due.join("; ")}.`
          : "Nothing is done until you say so, and every step can be undone."
      }
      actions={
        <Button needs="decide" look="main" disabled={changes === 0 || start.isPending} onClick={merge}>
          {changes === 0 ? "Nothing to merge" : `Merge: change ${counted(changes, "golden record")}`}
        </Button>
      }
    >
      <Pane label="What the merge will do" className="h-full px-4 pb-4">
        <Faces query={preview}>
          {(data) =>
            total(data) === 0 ? (
              <Empty title="Golden records and clusters agree.">
                <p>There is nothing to merge until a new run or new decisions change a cluster.</p>
              </Empty>
            ) : (
              <>
                <Sentences preview={data} slug={slug} />
                <h2 className="mb-1 font-semibold">The largest changes</h2>
                <table className="w-full text-sm">
                  <thead>
                    <tr>
                      {[
                        "Change, records",
                        "Golden name, delivered names",
                        "Street",
                        "Town",
                        "Phone",
                        "E-mail",
                        "Tax number",
                      ].map((title) => (
                        <th key={title} scope="col" className={HEAD}>
                          {title}
                        </th>
                      ))}
                    </tr>
                  </thead>
                  {data.sample.map((sample, place) => (
                    <Sample key={place} sample={sample} />
                  ))}
                </table>
              </>
            )
          }
        </Faces>
      </Pane>
    </Page>
  );
}

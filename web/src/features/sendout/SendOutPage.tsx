import { useParams } from "react-router";
import { useRegister } from "../../api/registers";
import { counted } from "../../domain/format";
import { Empty, LinkButton, Loading, Page, Pane } from "../../ui";

const TABLES = [
  {
    name: "golden",
    title: "Golden records",
    about: "One row a golden record: its key, how many records it stands for, and its values.",
  },
  {
    name: "crosswalk",
    title: "Crosswalk",
    about: "Which source record belongs to which golden record: source, source id, golden key.",
  },
] as const;
const FORMATS = [
  { ending: "csv", label: "CSV" },
  { ending: "xlsx", label: "XLSX" },
  { ending: "jsonl", label: "JSON Lines" },
] as const;

/** Golden records and the crosswalk, to be taken along. */
export function SendOutPage() {
  const { slug = "" } = useParams();
  const register = useRegister(slug);
  if (!register) return <Loading />;
  const { counts } = register;
  return (
    <Page title="Send out" about={`${counted(counts.golden, "golden record")} in force`}>
      {counts.golden === 0 ? (
        <Empty title="There is nothing to send yet.">
          <p>Golden records are made by a merge.</p>
          <LinkButton look="main" to={`/r/${slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </Empty>
      ) : (
        <Pane label="Tables" className="h-full max-w-3xl px-4 py-2">
          {TABLES.map((table) => (
            <section key={table.name} aria-label={table.title} className="border-b border-line py-4">
              <h2 className="font-semibold">{table.title}</h2>
              <p className="mb-2 text-sm text-soft">{table.about}</p>
              <div className="flex gap-2">
                {FORMATS.map((format) => (
                  <a
                    key={format.ending}
                    className="inline-flex h-8 items-center rounded-[3px] border border-line-strong bg-sheet px-2.5 text-sm font-medium hover:bg-plum-wash"
                    href={`/api/registers/${slug}/send-out/${table.name}.${format.ending}`}
                  >
                    {`${table.title} as ${format.label}`}
                  </a>
                ))}
              </div>
            </section>
          ))}
          {counts.records_without_golden > 0 && (
            <p className="py-3 text-sm">
              {counted(counts.records_without_golden, "record")} came in since the last merge and stand in neither table
              yet.
            </p>
          )}
          <p className="py-3 text-sm text-soft">
            Without a screen:{" "}
            <code className="font-mono">{`./odd-pair send-out ${slug} --out FOLDER --format csv`}</code>
          </p>
        </Pane>
      )}
    </Page>
  );
}

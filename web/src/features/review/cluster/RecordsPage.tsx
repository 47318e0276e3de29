import { useNavigate, useParams, useSearchParams } from "react-router";
import { Button, Empty, Faces, Key, Page, useKeys } from "../../../ui";
import { Workbench } from "./ClusterView";
import { useRecordsOf } from "./queries";

const numbers = (params: URLSearchParams, name: string) =>
  params
    .getAll(name)
    .map(Number)
    .filter((id) => id > 0);

/** Any records of the register side by side: named one by one, or with the clusters that they belong to. */
export function RecordsPage() {
  const { slug = "" } = useParams();
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const back = () => void navigate(-1);
  const of = useRecordsOf(slug, numbers(params, "of"));
  const named = numbers(params, "record");
  useKeys([{ key: "Backspace", label: "Back to where you came from", run: back }]);
  return (
    <Page
      title="Records side by side"
      actions={
        <Button onClick={back}>
          Back <Key>⌫</Key>
        </Button>
      }
    >
      <Faces query={of}>
        {(clusters) => {
          const records = [...new Set([...clusters, ...named])];
          return records.length === 0 ? (
            <Empty title="No records are named in this address." />
          ) : (
            <div className="grid h-full min-h-0">
              <Workbench slug={slug} records={records} cluster={0} onDecided={back} />
            </div>
          );
        }}
      </Faces>
    </Page>
  );
}

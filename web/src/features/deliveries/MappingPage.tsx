import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useLayout } from "../../api/registers";
import { Button, Empty, Faces, LinkButton, notify, Page, Pane, Trouble } from "../../ui";
import { MappingTable } from "./MappingTable";
import { type Mapping, type Preview, useDiscard, useLoad, usePreview, useTriedMapping } from "./queries";
import { TriedRows } from "./TriedRows";

function Draft({ slug, preview }: { slug: string; preview: Preview }) {
  const { delivery } = preview;
  const [mapping, setMapping] = useState<Mapping>(() =>
    Object.fromEntries(preview.proposals.map((proposal) => [proposal.column, proposal.target])),
  );
  const navigate = useNavigate();
  const layout = useLayout(slug);
  const tried = useTriedMapping(slug, delivery.id, mapping);
  const load = useLoad(slug, delivery.id);
  const discard = useDiscard(slug, delivery.id);
  const back = () => navigate(`/r/${slug}/bring-in`);
  const trouble = (error: Error) => notify(error.message, true);
  return (
    <Page
      title={`Which column is what? ${delivery.file_name}`}
      about={`${delivery.format}, from source “${delivery.source}”${preview.remembered ? ", mapped as last time" : ""}`}
      actions={
        <>
          <Button onClick={() => discard.mutate(undefined, { onSuccess: back, onError: trouble })}>Discard</Button>
          <Button
            look="main"
            disabled={load.isPending || tried.isError}
            onClick={() => load.mutate(mapping, { onSuccess: back, onError: trouble })}
          >
            Load this delivery
          </Button>
        </>
      }
    >
      <div className="grid h-full min-h-0 grid-rows-[minmax(0,3fr)_minmax(0,2fr)]">
        <Pane label="Columns" className="px-4">
          <Faces query={layout}>
            {({ fields }) => (
              <MappingTable
                fields={fields}
                preview={preview}
                mapping={mapping}
                onChange={(column, target) => setMapping({ ...mapping, [column]: target })}
              />
            )}
          </Faces>
        </Pane>
        <Pane label="First rows, delivered and tidy" className="border-t border-line-strong px-4">
          {tried.error ? (
            <div className="py-3">
              <Trouble error={tried.error} />
            </div>
          ) : (
            <Faces query={tried}>{(result) => <TriedRows tried={result} fields={layout.data?.fields ?? []} />}</Faces>
          )}
        </Pane>
      </div>
    </Page>
  );
}

/** A draft delivery: the proposed mapping, and what it makes of the first rows. */
export function MappingPage() {
  const { slug = "", deliveryId = "" } = useParams();
  const query = usePreview(slug, Number(deliveryId));
  return (
    <Faces query={query}>
      {(preview) =>
        preview.delivery.status === "draft" ? (
          <Draft key={preview.delivery.id} slug={slug} preview={preview} />
        ) : (
          <Empty alone title={`${preview.delivery.file_name} is ${preview.delivery.status} already.`}>
            <LinkButton to={`/r/${slug}/bring-in`}>Back to the deliveries</LinkButton>
          </Empty>
        )
      }
    </Faces>
  );
}

import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { useLayout } from "../../api/registers";
import type { Mapping } from "../../domain/mapping";
import { Button, Empty, Faces, LinkButton, notify, Page, Pane, Trouble } from "../../ui";
import { Constants } from "./Constants";
import { LayoutDialog } from "./LayoutDialog";
import { MappingTable } from "./MappingTable";
import { type LoadOptions, type Preview, useDiscard, useLoad, usePreview, useTriedMapping } from "./queries";
import { ReadingBar } from "./ReadingBar";
import { StandsFor } from "./StandsFor";
import { TriedRows } from "./TriedRows";

/** What differs from the columns of the source's last delivery. */
function Changes({ preview }: { preview: Preview }) {
  const { missing_columns: missing, new_columns: fresh, delivery } = preview;
  if (missing.length === 0 && fresh.length === 0) return null;
  const quoted = (names: readonly string[]) => names.map((name) => `“${name}”`).join(", ");
  return (
    <p role="status" className="border-l-2 border-rust bg-rust-wash px-3 py-1 text-sm">
      The columns of {delivery.source} changed since its last delivery.
      {missing.length > 0 && ` No longer there: ${quoted(missing)}.`}
      {fresh.length > 0 && ` New: ${quoted(fresh)}.`} Check the mapping before you load.
    </p>
  );
}

function Draft({ slug, preview }: { slug: string; preview: Preview }) {
  const { delivery } = preview;
  const [mapping, setMapping] = useState<Mapping>(delivery.mapping);
  const [how, setHow] = useState<LoadOptions>({ delivers: delivery.delivers, gone: delivery.gone });
  const [fieldsOpen, setFields] = useState(false);
  const navigate = useNavigate();
  const layout = useLayout(slug);
  const tried = useTriedMapping(slug, delivery.id, mapping);
  const load = useLoad(slug, delivery.id);
  const discard = useDiscard(slug, delivery.id);
  const back = () => navigate(`/r/${slug}/bring-in`);
  const trouble = (error: Error) => notify(error, true);
  return (
    <Page
      title={`Which column is what? ${delivery.file_name}`}
      about={`${delivery.format}, from source “${delivery.source}”${preview.remembered ? ", mapped as last time" : ""}`}
      actions={
        <>
          <Button needs="set up" onClick={() => setFields(true)}>
            Fields…
          </Button>
          <Button needs="bring in" onClick={() => discard.mutate(undefined, { onSuccess: back, onError: trouble })}>
            Discard
          </Button>
          <Button
            needs="bring in"
            look="main"
            disabled={load.isPending || tried.isError || tried.data?.rows.length === 0}
            onClick={() => load.mutate({ mapping, ...how }, { onSuccess: back, onError: trouble })}
          >
            Load this delivery
          </Button>
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col">
        <div className="flex flex-wrap items-center gap-x-8 gap-y-1 border-b border-line px-4 py-1.5">
          <ReadingBar slug={slug} preview={preview} />
          <StandsFor how={how} onChange={setHow} />
        </div>
        <Changes preview={preview} />
        <Pane label="Columns" className="flex-[3] px-4">
          <Faces query={layout}>
            {({ fields }) => (
              <>
                <MappingTable slug={slug} fields={fields} preview={preview} mapping={mapping} onChange={setMapping} />
                <Constants fields={fields} mapping={mapping} onChange={setMapping} />
              </>
            )}
          </Faces>
        </Pane>
        <Pane label="First rows, delivered and tidy" className="flex-[2] border-t border-line-strong px-4">
          {tried.error ? (
            <div className="py-3">
              <Trouble error={tried.error} />
            </div>
          ) : (
            <Faces query={tried}>
              {(result) => <TriedRows tried={result} fields={layout.data?.fields ?? []} onCure={setMapping} />}
            </Faces>
          )}
        </Pane>
      </div>
      {fieldsOpen && <LayoutDialog slug={slug} onClose={() => setFields(false)} />}
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
          // Read in another way, the file has other columns: what was chosen of the earlier ones says nothing.
          <Draft key={`${preview.delivery.id} ${preview.delivery.format}`} slug={slug} preview={preview} />
        ) : (
          <Empty alone title={`${preview.delivery.file_name} is ${preview.delivery.status} already.`}>
            <LinkButton to={`/r/${slug}/bring-in`}>Back to the deliveries</LinkButton>
          </Empty>
        )
      }
    </Faces>
  );
}

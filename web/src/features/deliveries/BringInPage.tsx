import { useState } from "react";
import { useParams } from "react-router";
import { Button, LinkButton, Page, Pane } from "../../ui";
import { DeliveryTable } from "./DeliveryTable";
import { DropZone } from "./DropZone";
import { LayoutDialog } from "./LayoutDialog";
import { RecognitionPart } from "./RecognitionPart";
import { SourceList } from "./SourceList";

export function BringInPage() {
  const { slug = "" } = useParams();
  const [fields, setFields] = useState(false);
  return (
    <Page
      title="Bring in"
      about="Files from sources become source records. What a source delivered is never altered."
      actions={
        <>
          <LinkButton to={`/r/${slug}/bring-in/unattended`}>Unattended…</LinkButton>
          <Button needs="set up" onClick={() => setFields(true)}>
            Fields of this register…
          </Button>
        </>
      }
    >
      <div className="grid h-full min-h-0 grid-cols-[19rem_1fr]">
        <Pane label="Drop files, sources" className="space-y-5 border-r border-line p-4">
          <DropZone slug={slug} />
          <SourceList slug={slug} />
          <RecognitionPart slug={slug} />
        </Pane>
        <Pane label="Deliveries" className="p-4 pt-0">
          <DeliveryTable slug={slug} />
        </Pane>
      </div>
      {fields && <LayoutDialog slug={slug} onClose={() => setFields(false)} />}
    </Page>
  );
}

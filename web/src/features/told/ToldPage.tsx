import { useState } from "react";
import { useParams } from "react-router";
import { Button, Faces, LinkButton, Page, Pane } from "../../ui";
import { AddReceiver } from "./AddReceiver";
import { useReceivers } from "./queries";
import { ReceiverTable } from "./ReceiverTable";

/** Who is told what becomes of golden records. */
export function ToldPage() {
  const { slug = "" } = useParams();
  const [adding, setAdding] = useState(false);
  return (
    <Page
      title="Others are told"
      about="What becomes of golden records, in order, signed, and again until it is taken."
      actions={
        <>
          <LinkButton to={`/r/${slug}/send-out`}>Back to sending out</LinkButton>
          <Button needs="automate" look="main" onClick={() => setAdding(true)}>
            Tell an address…
          </Button>
        </>
      }
    >
      <Pane label="Receivers" className="h-full px-4 py-3">
        <Faces query={useReceivers(slug)}>{(receivers) => <ReceiverTable slug={slug} receivers={receivers} />}</Faces>
        <p className="py-4 text-sm text-soft">
          To be read at any time: <code className="font-mono">{`/api/registers/${slug}/events?after=0`}</code>
        </p>
      </Pane>
      {adding && <AddReceiver slug={slug} onClose={() => setAdding(false)} />}
    </Page>
  );
}

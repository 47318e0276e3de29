import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { Button, Empty, Faces, Page, Pane, TextField, Trouble } from "../../ui";
import { KeptPlaces, KeptRecords, ToldBefore } from "./KeptParts";
import { useForget, useKept, type Whom } from "./queries";

/** All that is kept of a person, shown before it is erased; erasing always waits for a second yes. */
export function ForgetPage() {
  const { slug = "" } = useParams();
  const [params] = useSearchParams();
  const whom: Whom = {
    key: params.get("key") ?? "",
    record_ids: (params.get("records") ?? "").split(",").map(Number).filter(Boolean),
  };
  if (!whom.key && whom.record_ids.length === 0)
    return (
      <Page title="Erase what is kept of a person">
        <Empty title="Whose?">
          <p>Open the golden record of the person, and choose “Erase…” there.</p>
        </Empty>
      </Page>
    );
  return <OfPerson slug={slug} whom={whom} />;
}

function OfPerson({ slug, whom }: { slug: string; whom: Whom }) {
  const kept = useKept(slug, whom);
  const forget = useForget(slug);
  const [reason, setReason] = useState("");
  return (
    <Page
      title="Erase what is kept of a person"
      about="Shown first, then signed off by somebody else, then erased everywhere here. It cannot be brought back."
    >
      <Pane label="What is kept" className="h-full space-y-6 px-4 py-4">
        <Faces query={kept}>
          {(found) => (
            <>
              <KeptRecords kept={found} />
              <div className="grid grid-cols-2 gap-8">
                <KeptPlaces kept={found} />
                <ToldBefore kept={found} />
              </div>
              <form
                className="max-w-2xl space-y-3"
                onSubmit={(event) => {
                  event.preventDefault();
                  forget.mutate({ key: "", record_ids: found.records.map(({ id }) => id), reason });
                }}
              >
                <TextField
                  label="Reason"
                  hint="Such as the number of the request. It is kept for ever, so it must not name the person."
                  value={reason}
                  maxLength={4000}
                  onChange={(event) => setReason(event.target.value)}
                />
                {forget.error && <Trouble error={forget.error} />}
                <Button
                  type="submit"
                  look="main"
                  needs="forget"
                  disabled={!reason.trim() || forget.isPending || forget.isError}
                >
                  Propose to erase all of this
                </Button>
              </form>
            </>
          )}
        </Faces>
      </Pane>
    </Page>
  );
}

import { useState } from "react";
import { useParams } from "react-router";
import { useSources } from "../../api/sources";
import { LinkButton, Page, Pane } from "../../ui";
import { ScheduleDialog } from "./ScheduleDialog";
import { ScheduleTable } from "./ScheduleTable";
import { TurnTable } from "./TurnTable";

/** What runs without a person: when each source delivers, and what came of it. */
export function UnattendedPage() {
  const { slug = "" } = useParams();
  const [changing, setChanging] = useState("");
  const sources = useSources(slug).data ?? [];
  return (
    <Page
      title="Unattended"
      about="Sources deliver by themselves: taken, loaded, recognised, merged, sent out; what could do harm is held."
      actions={<LinkButton to={`/r/${slug}/bring-in`}>Back to the deliveries</LinkButton>}
    >
      <Pane label="Unattended" className="h-full space-y-6 px-4 py-3">
        <ScheduleTable slug={slug} sources={sources} onChange={setChanging} />
        <TurnTable slug={slug} />
      </Pane>
      {changing && (
        <ScheduleDialog
          slug={slug}
          source={changing}
          asked={sources.find(({ name }) => name === changing)?.query != null}
          onClose={() => setChanging("")}
        />
      )}
    </Page>
  );
}

import { useParams, useSearchParams } from "react-router";
import { counted } from "../../domain/format";
import { Choice, Faces, Page, Pane } from "../../ui";
import { AgreementPart } from "./AgreementPart";
import { AskedPart } from "./AskedPart";
import { DaysPart } from "./DaysPart";
import { PacePart } from "./PacePart";
import { ProposalsPart } from "./ProposalsPart";
import { useWatch } from "./queries";
import { WorkPart } from "./WorkPart";

const SPANS = ["7", "14", "30", "90"].map((days) => ({ value: days, label: `${days} days` }));

/** How the work goes: what is decided, how long it takes, how people agree, what is overdue. Figures with their base, and no ranking. */
export function WatchPage() {
  const { slug = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const days = params.get("days") ?? "14";
  return (
    <Page
      title="How the work goes"
      about="What people decided and did not take back, in order of their names."
      actions={
        <Choice
          label="Over"
          value={days}
          options={SPANS}
          onChange={(chosen) => setParams({ days: chosen }, { replace: true })}
          className="w-28"
        />
      }
    >
      <Pane label="How the work goes" className="h-full space-y-8 px-4 py-4">
        <Faces query={useWatch(slug, Number(days))}>
          {(watch) => (
            <>
              <p className="text-base">
                {`${counted(watch.waiting, "doubt waits", "doubts wait")}, ${watch.put_off} put off.`}
              </p>
              <div className="grid grid-cols-[3fr_2fr] gap-8">
                <WorkPart slug={slug} />
                <ProposalsPart slug={slug} proposals={watch.proposals} />
              </div>
              <DaysPart days={watch.days} span={Number(days)} />
              <div className="grid grid-cols-3 gap-8">
                <AskedPart slug={slug} asked={watch.asked} />
                <PacePart paces={watch.paces} />
                <AgreementPart agreement={watch.agreement} />
              </div>
            </>
          )}
        </Faces>
      </Pane>
    </Page>
  );
}

import { useState } from "react";
import { useSearchParams } from "react-router";
import { count } from "../../domain/format";
import { Empty, Faces, LinkButton, Page, useKeys } from "../../ui";
import { ClusterView } from "./cluster/ClusterView";
import { ContradictionDialog } from "./dialogs/ContradictionDialog";
import { FindTwo } from "./dialogs/FindDialog";
import { QueueViews } from "./dialogs/QueueViews";
import { PairView } from "./PairView";
import { Progress } from "./Progress";
import { QueueBar } from "./QueueBar";
import { QueueList } from "./QueueList";
import { useContradictions, useDisagreements, usePair } from "./queries";
import { isFiltered } from "./queueState";
import { type Desk, useDesk } from "./useDesk";
import { useLease } from "./useLease";
import { useVerdicts } from "./useVerdicts";
import { WorkDialog } from "./work/WorkDialog";

function Nothing({ desk }: { desk: Desk }) {
  const filtered = isFiltered(desk.state);
  if (!filtered && desk.waiting + desk.put_off > 0)
    return (
      <Empty title="Others have all that waits before them.">
        <p>What they leave undecided comes up here by itself.</p>
      </Empty>
    );
  return (
    <Empty title={filtered ? "No doubt fits." : "Nothing is in doubt."}>
      {!filtered && (
        <>
          <p>Every doubt of the latest run has been decided, or waits for sign-off.</p>
          <LinkButton look="main" to={`/r/${desk.slug}/golden/merge`}>
            Preview the merge
          </LinkButton>
        </>
      )}
    </Empty>
  );
}

/** The review desk: the queue, and the pair or cluster in view. */
export function ReviewPage() {
  const desk = useDesk();
  const { left, right, cluster } = desk.inView;
  const pair = usePair(desk.slug, left, right);
  const verdicts = useVerdicts(desk, pair.data);
  const [open, setOpen] = useState<"" | "views" | "find" | "work">("");
  const [params, setParams] = useSearchParams();
  const asksForThem = params.has("contradictions");
  const standing = useContradictions(desk.slug, asksForThem).data ?? [];
  const otherwise = useDisagreements(desk.slug, asksForThem).data ?? [];
  useLease(desk);
  useKeys([
    { key: "u", needs: "decide", label: "Take back your latest decision", run: verdicts.undo },
    { key: "ArrowDown", label: "Next doubt", run: () => desk.step(1) },
    { key: "ArrowUp", label: "Previous doubt", run: () => desk.step(-1) },
    { key: "v", label: "Views of the queue", run: () => setOpen("views") },
    { key: "f", label: "Find two records", run: () => setOpen("find") },
    { key: "g", label: "Whose the doubts are: give and take work", run: () => setOpen("work") },
  ]);
  const nothing =
    desk.queue.data && !desk.queue.isFetching && !verdicts.isDeciding && desk.doubts.length === 0 && !left && !cluster;
  return (
    <Page
      title="Review"
      about={
        desk.queue.data && `${count(desk.waiting)} wait${desk.put_off > 0 ? `, ${count(desk.put_off)} put off` : ""}`
      }
      actions={
        <QueueBar
          slug={desk.slug}
          state={desk.state}
          onChange={desk.change}
          onViews={() => setOpen("views")}
          onFind={() => setOpen("find")}
          onWork={() => setOpen("work")}
        />
      }
    >
      {nothing ? (
        <Nothing desk={desk} />
      ) : (
        <div className="grid h-full min-h-0 grid-cols-[17rem_minmax(0,1fr)]">
          <div className="flex min-h-0 flex-col">
            <QueueList doubts={desk.doubts} place={desk.place} onOpen={desk.open} />
            <Progress slug={desk.slug} />
          </div>
          {cluster ? (
            <ClusterView key={cluster} slug={desk.slug} cluster={cluster} desk={desk} />
          ) : (
            <Faces query={pair}>{(data) => <PairView desk={desk} pair={data} verdicts={verdicts} />}</Faces>
          )}
        </div>
      )}
      {asksForThem && standing.length + otherwise.length > 0 && (
        <ContradictionDialog
          slug={desk.slug}
          found={standing}
          otherwise={otherwise}
          onClose={() => setParams({}, { replace: true })}
        />
      )}
      {open === "views" && <QueueViews slug={desk.slug} state={desk.state} onClose={() => setOpen("")} />}
      {open === "work" && (
        <WorkDialog
          slug={desk.slug}
          state={desk.state}
          onLook={(work) => {
            desk.change({ what: "", asked: "", work });
            setOpen("");
          }}
          onClose={() => setOpen("")}
        />
      )}
      {open === "find" && <FindTwo slug={desk.slug} onClose={() => setOpen("")} />}
    </Page>
  );
}

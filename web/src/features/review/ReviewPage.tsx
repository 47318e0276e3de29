import { useState } from "react";
import { count } from "../../domain/format";
import { Choice, Empty, Faces, LinkButton, Page, Search, useKeys } from "../../ui";
import { ChangedSince } from "./ChangedSince";
import { DecideBar } from "./DecideBar";
import { EvidenceScale } from "./EvidenceScale";
import { FaceSheet } from "./FaceSheet";
import { KindChoice } from "./KindChoice";
import { QueueList } from "./QueueList";
import { usePair } from "./queries";
import { RemarkDialog } from "./RemarkDialog";
import { useDesk, useVerdicts } from "./useDesk";

const ORDERS = [
  { value: "doubt", label: "Most doubtful first" },
  { value: "score", label: "Highest score first" },
  { value: "cluster", label: "Largest cluster first" },
] as const;

/** The review desk: the queue, two records face to face, the evidence, and the verdict. */
export function ReviewPage() {
  const desk = useDesk();
  const pair = usePair(desk.slug, desk.inView.left, desk.inView.right);
  const { say, undo, isDeciding } = useVerdicts(desk, pair.data);
  const [showTidy, setShowTidy] = useState(false);
  const [remarking, setRemarking] = useState(false);
  useKeys([
    { key: "s", label: "The two are the same", run: () => say("same") },
    { key: "d", label: "The two are different", run: () => say("different") },
    { key: "l", label: "Decide later", run: () => say("later") },
    { key: "u", label: "Take back your latest decision", run: undo },
    { key: "r", label: "Decide with a remark", run: () => setRemarking(true) },
    { key: "t", label: "Show tidy or delivered values", run: () => setShowTidy((shown) => !shown) },
    { key: "ArrowDown", label: "Next pair", run: () => desk.step(1) },
    { key: "ArrowUp", label: "Previous pair", run: () => desk.step(-1) },
  ]);
  const nothing =
    desk.queue.data && !desk.queue.isFetching && !isDeciding && desk.pairs.length === 0 && !desk.inView.left;
  const filtered = desk.search !== "" || desk.kind !== "";
  return (
    <Page
      title="Review"
      about={
        desk.queue.data &&
        `${count(desk.waiting)} pairs wait${desk.put_off > 0 ? `, ${count(desk.put_off)} put off for later` : ""}`
      }
      actions={
        <>
          <Search
            label="Search words of the records"
            value={desk.search}
            onChange={(value) => desk.change("search", value)}
          />
          <KindChoice slug={desk.slug} value={desk.kind} onChange={(value) => desk.change("kind", value)} />
          <Choice
            label="Order"
            value={desk.order}
            options={ORDERS}
            onChange={(value) => desk.change("order", value)}
            className="w-48"
          />
        </>
      }
    >
      {nothing ? (
        <Empty title={filtered ? "No pair in doubt fits." : "Nothing is in doubt."}>
          {!filtered && (
            <>
              <p>Every pair that the latest run doubted has been decided.</p>
              <LinkButton look="main" to={`/r/${desk.slug}/golden/merge`}>
                Preview the merge
              </LinkButton>
            </>
          )}
        </Empty>
      ) : (
        <div className="grid h-full min-h-0 grid-cols-[17rem_1fr]">
          <QueueList pairs={desk.pairs} place={desk.place} onOpen={desk.open} />
          <Faces query={pair}>
            {(data) => (
              <div className="flex min-h-0 flex-col">
                <ChangedSince pair={data} />
                <FaceSheet pair={data} showTidy={showTidy} />
                {data.evidence.length > 0 && <EvidenceScale pair={data} />}
                <DecideBar
                  pair={data}
                  showTidy={showTidy}
                  onSay={say}
                  onUndo={undo}
                  onRemark={() => setRemarking(true)}
                  onTidy={() => setShowTidy(!showTidy)}
                />
              </div>
            )}
          </Faces>
        </div>
      )}
      {remarking && (
        <RemarkDialog
          onSay={(verdict, remark) => {
            setRemarking(false);
            say(verdict, remark);
          }}
          onClose={() => setRemarking(false)}
        />
      )}
    </Page>
  );
}

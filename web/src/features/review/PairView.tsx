import { useState } from "react";
import { useNavigate } from "react-router";
import { useKeys } from "../../ui";
import { AroundPanel } from "./around/AroundPanel";
import { AroundStrip } from "./around/AroundStrip";
import { ChangedSince } from "./ChangedSince";
import { DecideBar } from "./DecideBar";
import { ContradictionDialog } from "./dialogs/ContradictionDialog";
import { LaterDialog } from "./dialogs/LaterDialog";
import { LikesDialog } from "./dialogs/LikesDialog";
import { RemarkDialog } from "./dialogs/RemarkDialog";
import { EvidenceScale } from "./EvidenceScale";
import { FaceSheet } from "./FaceSheet";
import type { Pair } from "./queries";
import type { Desk } from "./useDesk";
import type { useVerdicts } from "./useVerdicts";

interface Props {
  desk: Desk;
  pair: Pair;
  verdicts: ReturnType<typeof useVerdicts>;
}

/** A pair in the middle of the desk: the sheet, what stands around it, the evidence, the verdict. */
export function PairView({ desk, pair, verdicts }: Props) {
  const { say, undo, isAgain, contradicts, forgetContradictions } = verdicts;
  const [showTidy, setShowTidy] = useState(false);
  const [around, setAround] = useState(false);
  const [open, setOpen] = useState<"" | "remark" | "later" | "likes">("");
  const navigate = useNavigate();
  const openCluster = () => {
    const query = new URLSearchParams([
      ["of", String(pair.left.id)],
      ["of", String(pair.right.id)],
    ]);
    void navigate(`/r/${desk.slug}/review/records?${query}`);
  };
  useKeys([
    { key: "s", needs: "decide", label: "The two are the same", run: () => say("same") },
    { key: "d", needs: "decide", label: "The two are different", run: () => say("different") },
    { key: "l", needs: "decide", label: "Decide later", run: () => say("later") },
    { key: "w", needs: "decide", label: "Later: wait for a day, or ask somebody", run: () => setOpen("later") },
    { key: "r", needs: "decide", label: "Decide with a remark", run: () => setOpen("remark") },
    { key: "t", label: "Show tidy or delivered values", run: () => setShowTidy((shown) => !shown) },
    { key: "n", label: "What stands around the pair", run: () => setAround((shown) => !shown) },
    { key: "c", label: "Both clusters as a table", run: openCluster },
    { key: "a", needs: "decide", label: "All like this one", run: () => setOpen("likes") },
  ]);
  return (
    <div className="flex min-h-0 min-w-0">
      <div className="flex min-h-0 min-w-0 flex-1 flex-col">
        {!isAgain && <ChangedSince pair={pair} />}
        {pair.proposed && (
          <p role="status" className="border-b border-line-strong bg-plum-wash px-4 py-2 text-sm">
            {pair.proposed}
          </p>
        )}
        {pair.lost_at && (
          <p className="border-b border-line bg-sunk px-4 py-1.5 text-sm">
            {`No run brought these two together. ${pair.lost_at}`}
            {pair.keys.length > 0 && ` Blocking keys that both share: ${pair.keys.join(", ")}.`}
          </p>
        )}
        <FaceSheet pair={pair} showTidy={showTidy} />
        <AroundStrip slug={desk.slug} pair={pair} onOpen={() => setAround(!around)} />
        {pair.evidence.length > 0 && <EvidenceScale pair={pair} />}
        <DecideBar
          pair={pair}
          showTidy={showTidy}
          isAgain={isAgain}
          onSay={say}
          onUndo={undo}
          onRemark={() => setOpen("remark")}
          onLater={() => setOpen("later")}
          onTidy={() => setShowTidy(!showTidy)}
          onLikes={() => setOpen("likes")}
          onCluster={openCluster}
        />
      </div>
      {around && <AroundPanel slug={desk.slug} pair={pair} onClose={() => setAround(false)} />}
      {open === "remark" && (
        <RemarkDialog
          onSay={(verdict, remark) => {
            setOpen("");
            say(verdict, { remark });
          }}
          onClose={() => setOpen("")}
        />
      )}
      {open === "later" && (
        <LaterDialog
          slug={desk.slug}
          onSay={(asked) => {
            setOpen("");
            say("later", asked);
          }}
          onClose={() => setOpen("")}
        />
      )}
      {open === "likes" && <LikesDialog slug={desk.slug} pair={pair} onClose={() => setOpen("")} />}
      {contradicts.length > 0 && (
        <ContradictionDialog slug={desk.slug} found={contradicts} onClose={forgetContradictions} />
      )}
    </div>
  );
}

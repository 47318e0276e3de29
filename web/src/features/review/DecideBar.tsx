import { moment } from "../../domain/format";
import { Button, Key } from "../../ui";
import type { Pair, Verdict } from "./queries";

interface Props {
  pair: Pair;
  showTidy: boolean;
  /** Whether this is another look at a decided pair, which must not show how it was decided. */
  isAgain: boolean;
  onSay: (verdict: Verdict) => void;
  onUndo: () => void;
  onRemark: () => void;
  onLater: () => void;
  onTidy: () => void;
  onLikes: () => void;
  onCluster: () => void;
}

/** What can be said of the pair, each with its key. */
export function DecideBar({
  pair,
  showTidy,
  isAgain,
  onSay,
  onUndo,
  onRemark,
  onLater,
  onTidy,
  onLikes,
  onCluster,
}: Props) {
  const { decision } = pair;
  return (
    <div className="flex flex-wrap items-center gap-2 border-t border-line-strong bg-sunk px-4 py-2">
      <Button needs="decide" look="main" onClick={() => onSay("same")}>
        Same <Key>S</Key>
      </Button>
      <Button needs="decide" look="main" onClick={() => onSay("different")}>
        Different <Key>D</Key>
      </Button>
      <Button needs="decide" onClick={() => onSay("later")}>
        Later <Key>L</Key>
      </Button>
      <Button needs="decide" onClick={onLater}>
        Until, ask <Key>W</Key>
      </Button>
      <Button needs="decide" onClick={onRemark}>
        Remark <Key>R</Key>
      </Button>
      <Button onClick={onTidy}>
        {showTidy ? "Delivered" : "Tidy"} <Key>T</Key>
      </Button>
      <Button onClick={onCluster}>
        Cluster <Key>C</Key>
      </Button>
      <Button needs="decide" onClick={onLikes}>
        All like this <Key>A</Key>
      </Button>
      <Button needs="decide" onClick={onUndo}>
        Take back <Key>U</Key>
      </Button>
      {decision && !isAgain && (
        <p className="ml-auto text-sm">
          {`Decided “${decision.verdict}” by ${decision.actor}, ${moment(decision.at)}`}
          {decision.until && `, until ${decision.until}`}
          {decision.asked && `, asks ${decision.asked}`}
          {decision.remark && `: ${decision.remark}`}
        </p>
      )}
    </div>
  );
}

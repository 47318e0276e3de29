import { moment } from "../../domain/format";
import { Button, Key } from "../../ui";
import type { Pair, Verdict } from "./queries";

interface Props {
  pair: Pair;
  showTidy: boolean;
  onSay: (verdict: Verdict) => void;
  onUndo: () => void;
  onRemark: () => void;
  onTidy: () => void;
}

/** What can be said of the pair, each with its key. */
export function DecideBar({ pair, showTidy, onSay, onUndo, onRemark, onTidy }: Props) {
  const { decision } = pair;
  return (
    <div className="flex flex-wrap items-center gap-2 border-t border-line-strong bg-sunk px-4 py-2">
      <Button look="main" onClick={() => onSay("same")}>
        Same <Key>S</Key>
      </Button>
      <Button look="main" onClick={() => onSay("different")}>
        Different <Key>D</Key>
      </Button>
      <Button onClick={() => onSay("later")}>
        Later <Key>L</Key>
      </Button>
      <Button onClick={onRemark}>
        With a remark <Key>R</Key>
      </Button>
      <Button onClick={onTidy}>
        {showTidy ? "Delivered values" : "Tidy values"} <Key>T</Key>
      </Button>
      <Button onClick={onUndo}>
        Take back <Key>U</Key>
      </Button>
      {decision && (
        <p className="ml-auto text-sm">
          {`Decided “${decision.verdict}” by ${decision.actor}, ${moment(decision.at)}`}
          {decision.remark && `: ${decision.remark}`}
        </p>
      )}
    </div>
  );
}

import { type ReactNode, useEffect, useRef, useState } from "react";
import { Button, Empty, Key, type KeyBinding, LinkButton, notify, useKeys } from "../../../ui";
import { type BorderPair, useDecideAtBorder } from "../bench";
import { PairLine } from "./PairLine";

type Said = "same" | "different";

interface Props {
  label: string;
  slug: string;
  pairs: readonly BorderPair[];
  /** What is said where there is no pair. */
  none: string;
  /** Where scores fall below it, the limit is drawn, and the walk begins. */
  limit?: number;
  onOne: (pair: BorderPair) => void;
  children?: ReactNode;
}

const nameOfPair = (pair: BorderPair) => `${pair.left.id}-${pair.right.id}`;

/** Pairs in a list to walk along by key, and to decide on the spot; what is said stays to be seen. */
export function PairWalk({ label, slug, pairs, none, limit, onOne, children }: Props) {
  const [chosen, setChosen] = useState("");
  const [said, setSaid] = useState<Record<string, Said>>({});
  const decide = useDecideAtBorder(slug);
  const first = limit === undefined ? -1 : pairs.findIndex(({ score }) => score < limit);
  const at = pairs.findIndex((pair) => nameOfPair(pair) === chosen);
  const place = at >= 0 ? at : Math.max(first - 1, 0);
  const pair = pairs[place];
  const step = (by: number) => {
    const next = pairs[Math.max(0, Math.min(pairs.length - 1, place + by))];
    if (next) setChosen(nameOfPair(next));
  };
  const say = (verdict: Said) => {
    if (!pair) return;
    const name = nameOfPair(pair);
    const before = said[name];
    decide.mutate(
      { left: pair.left.id, right: pair.right.id, seen: before ? null : pair.decided?.id || null, verdict },
      {
        onError: (error) => {
          notify(error, true);
          setSaid(({ [name]: _, ...others }) => others);
        },
      },
    );
    setSaid({ ...said, [name]: verdict });
    step(1);
  };
  const list = useRef<HTMLUListElement>(null);
  const shown = pair && nameOfPair(pair);
  // The pair in view stays in view; where the walk begins, so does the limit around it.
  useEffect(() => {
    const line = shown && list.current?.querySelector("[aria-current='true']");
    if (line) line.scrollIntoView?.({ block: chosen || first < 0 ? "nearest" : "center" });
  }, [shown, chosen, first]);
  const bindings: KeyBinding[] = [
    { key: "ArrowDown", label: "Next pair", run: () => step(1) },
    { key: "ArrowUp", label: "Previous pair", run: () => step(-1) },
    { key: "s", needs: "decide", label: "These are the same", run: () => say("same") },
    { key: "d", needs: "decide", label: "These are different", run: () => say("different") },
  ];
  useKeys(bindings);
  return (
    <>
      {pairs.length === 0 ? (
        <Empty title={none} />
      ) : (
        <ul ref={list} aria-label={label} className="min-h-0 flex-1 overflow-auto">
          {pairs.map((one, number) => (
            <PairLine
              key={nameOfPair(one)}
              pair={one}
              said={said[nameOfPair(one)] ?? one.decided?.verdict}
              chosen={number === place}
              limit={number === first ? limit : undefined}
              onChoose={() => setChosen(nameOfPair(one))}
            />
          ))}
        </ul>
      )}
      <div className="flex flex-wrap items-center gap-2 border-t border-line-strong bg-sunk px-4 py-2">
        <Button needs="decide" look="main" disabled={!pair} onClick={() => say("same")}>
          Same <Key>S</Key>
        </Button>
        <Button needs="decide" look="main" disabled={!pair} onClick={() => say("different")}>
          Different <Key>D</Key>
        </Button>
        {pair && (
          <>
            <LinkButton to={`/r/${slug}/review/records?record=${pair.left.id}&record=${pair.right.id}`}>
              Face to face
            </LinkButton>
            <Button onClick={() => onOne(pair)}>Why</Button>
          </>
        )}
        {children}
      </div>
    </>
  );
}

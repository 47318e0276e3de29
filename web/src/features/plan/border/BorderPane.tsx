import { useEffect, useRef, useState } from "react";
import { bits, nameOf } from "../../../domain/format";
import { Button, Choice, Empty, Faces, Key, type KeyBinding, LinkButton, notify, useKeys } from "../../../ui";
import {
  type BorderPair,
  type Shown,
  type Tried,
  type Trying,
  useBorder,
  useDecideAtBorder,
  type Walk,
} from "../bench";

interface Props {
  slug: string;
  trying: Trying;
  tried: Tried;
  stamp: string;
  walk: Walk;
  around: "same" | "unsure";
  onWalk: (walk: Partial<Walk> & { around?: "same" | "unsure" }) => void;
}

const SHOWN: { value: Shown; label: string }[] = [
  { value: "all", label: "all pairs" },
  { value: "gained", label: "gained" },
  { value: "lost", label: "lost" },
];

/** The pairs at a limit in order of score, to walk along until they turn wrong, and to decide on the spot. */
export function BorderPane({ slug, trying, tried, stamp, walk, around, onWalk }: Props) {
  const query = useBorder(slug, trying, walk, stamp, true);
  const [chosen, setChosen] = useState("");
  const decide = useDecideAtBorder(slug);
  const pairs = query.data ?? [];
  const nameOfPair = (pair: BorderPair) => `${pair.left.id}-${pair.right.id}`;
  const first = pairs.findIndex(({ score }) => score < walk.limit);
  const at = pairs.findIndex((pair) => nameOfPair(pair) === chosen);
  const place = at >= 0 ? at : Math.max(first - 1, 0);
  const pair = pairs[place];
  const step = (by: number) => {
    const next = pairs[Math.max(0, Math.min(pairs.length - 1, place + by))];
    if (next) setChosen(nameOfPair(next));
  };
  const say = (verdict: "same" | "different") => {
    if (!pair) return;
    const seen = pair.decided?.id || null;
    decide.mutate(
      { left: pair.left.id, right: pair.right.id, seen, verdict },
      { onError: (error) => notify(error.message, true) },
    );
    step(1);
  };
  const list = useRef<HTMLUListElement>(null);
  const shown = pair && nameOfPair(pair);
  // The pair in view stays in view; where the walk begins, so does the limit around it.
  useEffect(() => {
    const line = shown && list.current?.querySelector("[aria-current='true']");
    if (line) line.scrollIntoView?.({ block: chosen ? "nearest" : "center" });
  }, [shown, chosen]);
  const bindings: KeyBinding[] = [
    { key: "ArrowDown", label: "Next pair, with a lower score", run: () => step(1) },
    { key: "ArrowUp", label: "Previous pair", run: () => step(-1) },
    { key: "s", label: "These are the same", run: () => say("same") },
    { key: "d", label: "These are different", run: () => say("different") },
  ];
  useKeys(bindings);
  const comparisons = tried.comparisons.map(({ name, label }) => ({ value: name, label: `decided by ${label}` }));
  const conditions = tried.conditions.map(({ title }) => ({ value: title, label: title }));
  return (
    <section aria-label="Pairs at the border" className="flex h-full min-h-0 flex-col">
      <div className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-2">
        <Choice
          label="Around"
          value={around}
          options={[
            { value: "same", label: `around same, ${tried.same_limit}` },
            { value: "unsure", label: `around in doubt, ${tried.unsure_limit}` },
          ]}
          onChange={(value) => onWalk({ around: value })}
        />
        <Choice label="Shown" value={walk.shown} options={SHOWN} onChange={(shown) => onWalk({ shown })} />
        <Choice
          label="Decided by"
          value={walk.decided_by}
          options={[{ value: "", label: "whatever decides" }, ...comparisons]}
          onChange={(decided_by) => onWalk({ decided_by, condition: "" })}
        />
        {conditions.length > 0 && (
          <Choice
            label="Condition"
            value={walk.condition}
            options={[{ value: "", label: "any condition" }, ...conditions]}
            onChange={(condition) => onWalk({ condition, decided_by: "" })}
            className="max-w-52"
          />
        )}
      </div>
      <Faces query={query}>
        {(data) =>
          data.length === 0 ? (
            <Empty title="No pair is like that." />
          ) : (
            <ul ref={list} aria-label="Pairs by score" className="min-h-0 flex-1 overflow-auto">
              {data.map((one, number) => (
                <PairLine
                  key={nameOfPair(one)}
                  slug={slug}
                  pair={one}
                  chosen={number === place}
                  border={number === first}
                  limit={walk.limit}
                  onChoose={() => setChosen(nameOfPair(one))}
                />
              ))}
            </ul>
          )
        }
      </Faces>
      <div className="flex flex-wrap gap-2 border-t border-line-strong bg-sunk px-4 py-2">
        <Button look="main" disabled={!pair} onClick={() => say("same")}>
          Same <Key>S</Key>
        </Button>
        <Button look="main" disabled={!pair} onClick={() => say("different")}>
          Different <Key>D</Key>
        </Button>
        {pair && (
          <LinkButton to={`/r/${slug}/review/records?record=${pair.left.id}&record=${pair.right.id}`}>
            Face to face
          </LinkButton>
        )}
      </div>
    </section>
  );
}

interface LineProps {
  slug: string;
  pair: BorderPair;
  chosen: boolean;
  border: boolean;
  limit: number;
  onChoose: () => void;
}

function PairLine({ pair, chosen, border, limit, onChoose }: LineProps) {
  const moved = pair.verdict !== pair.verdict_before;
  return (
    <li>
      {border && (
        <p className="border-y border-ink bg-sunk px-4 py-0.5 text-center text-xs font-semibold">limit {limit}</p>
      )}
      <button
        type="button"
        aria-current={chosen}
        onClick={onChoose}
        className={`grid w-full grid-cols-[6.5rem_minmax(0,1fr)_minmax(0,1fr)] items-start gap-x-3 border-b border-line px-4 py-1 text-left text-sm hover:bg-plum-wash ${
          chosen ? "bg-plum-wash" : ""
        }`}
      >
        <span className="row-span-2">
          <b className="font-mono">{bits(pair.score)}</b>
          <span className="block text-xs text-soft">
            {moved ? `${pair.verdict_before} → ${pair.verdict}` : pair.verdict}
          </span>
          {pair.decided && <span className="block text-xs font-semibold">decided {pair.decided.verdict}</span>}
        </span>
        <Side record={pair.left} colour="text-marine" />
        <Side record={pair.right} colour="text-rust" />
        <span className="col-span-2 col-start-2 truncate text-xs text-soft" title={pair.reason}>
          {pair.condition ? `${pair.condition}. ` : ""}
          {pair.reason}
        </span>
      </button>
    </li>
  );
}

function Side({ record, colour }: { record: BorderPair["left"]; colour: string }) {
  const { fields } = record;
  const where = ["address.line", "address.number", "address.postcode", "address.city", "address.country"]
    .map((name) => fields[name])
    .filter(Boolean)
    .join(", ");
  return (
    <span className="min-w-0">
      <span className={`block truncate font-medium ${colour}`}>{nameOf(fields) || "no name"}</span>
      <span className="block truncate text-xs">{[where, fields.phone, fields.email].filter(Boolean).join(" · ")}</span>
    </span>
  );
}

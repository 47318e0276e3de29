import { type ReactNode, useEffect, useRef, useState } from "react";
import type { Limits } from "../../domain/bench";
import { at, readPlan, withOrder, withPart } from "../../domain/planText";
import { Button, Empty, notify, Tabs, Trouble } from "../../ui";
import {
  type Bench,
  type BorderPair,
  type Tried,
  type Trying,
  useBench,
  useSettle,
  useTried,
  type Walk,
} from "./bench";
import { BorderPane } from "./border/BorderPane";
import { EffectPane } from "./effect/EffectPane";
import { LearnPane } from "./learn/LearnPane";
import { MeasurePane } from "./measure/MeasurePane";
import { OnePairPane, type Sides } from "./one/OnePairPane";
import { NOTHING } from "./one/queries";
import type { Plan } from "./queries";

/** Up to so many records a whole match settles by itself what was edited. */
const SETTLED_BY_ITSELF = 15_000;
const STILL_MS = 900;

export type Side = "effect" | "border" | "measure" | "learn" | "one" | "runs";

/** What is seen beside the plan, each at an address of its own. */
export const SIDES: readonly { tab: Side; label: string }[] = [
  { tab: "effect", label: "Effect" },
  { tab: "border", label: "At the border" },
  { tab: "measure", label: "Measure" },
  { tab: "learn", label: "Learn" },
  { tab: "one", label: "One pair" },
  { tab: "runs", label: "Runs" },
];

interface Props {
  slug: string;
  plan: Plan;
  /** The plan as it is tried, and as it stands in the editor. */
  yaml: string;
  text: string;
  valid: boolean;
  records: number;
  side: Side;
  onSide: (side: Side) => void;
  onChange: (yaml: string) => void;
  children: ReactNode;
}

/** What the plan on the bench does, in its faces: effect, border, measure, learning, one pair, runs. The bench is warmed when it is first looked at. */
export function BenchEffect({ slug, plan, yaml, text, valid, records, side, onSide, onChange, children }: Props) {
  const [sides, setSides] = useState<Sides>({ left: NOTHING, right: NOTHING });
  const [pass, setPass] = useState(0);
  const [around, setAround] = useState<"same" | "unsure">("same");
  const [walk, setWalk] = useState<Omit<Walk, "limit">>({ shown: "all", decided_by: "", condition: "" });
  const bench = useBench(slug);
  const stamp = bench.data ? `${bench.data.running} ${bench.data.seconds}` : "";
  const trying: Trying = { yaml, pass, against: plan.version };
  const tried = useTried(slug, trying, stamp, valid && Boolean(bench.data?.warm));
  useWarm(slug, bench.data, records);
  useSettleByItself(slug, bench.data, tried.data, yaml, valid && !tried.isPlaceholderData, records);
  const limitPlace = (name: string) => {
    const own = ["passes", pass, "limits"];
    return at(readPlan(text), own) === undefined ? ["limits", name] : [...own, name];
  };
  const setLimits = (limits: Limits) => {
    const first = withPart(readPlan(text), limitPlace("same"), limits.same);
    onChange(withPart(readPlan(first), limitPlace("unsure"), limits.unsure));
  };
  const reorder = (found: Tried) => {
    const order = found.conditions
      .map((one, place) => ({ place, best: one.best_place }))
      .sort((one, other) => one.best - other.best);
    onChange(
      withOrder(
        readPlan(text),
        ["conditions"],
        order.map(({ place }) => place),
      ),
    );
  };
  const start = (more: Partial<Walk> & { around?: "same" | "unsure" }) => {
    const { around: where, limit: _, ...rest } = more;
    if (where) setAround(where);
    setWalk((before) => ({ ...before, ...rest }));
    onSide("border");
  };
  const lookAt = (pair: BorderPair) => {
    const side = ({ id, fields }: BorderPair["left"]) => ({ record: id, fields });
    setSides({ left: side(pair.left), right: side(pair.right) });
    onSide("one");
  };
  const limit = tried.data ? (around === "same" ? tried.data.same_limit : tried.data.unsure_limit) : 0;
  return (
    <>
      <div className="border-b border-line px-4 pt-1">
        <Tabs label="What it does" tabs={SIDES} chosen={side} onChoose={onSide} />
      </div>
      <div className="min-h-0 flex-1 overflow-auto">
        {side === "runs" ? (
          children
        ) : tried.data && bench.data?.warm ? (
          <>
            {side === "effect" && (
              <EffectPane
                slug={slug}
                trying={trying}
                bench={bench.data}
                tried={tried.data}
                stamp={stamp}
                onPass={setPass}
                onLimits={setLimits}
                onWalk={(more) => start({ shown: "all", decided_by: "", condition: "", ...more })}
                onReorder={() => tried.data && reorder(tried.data)}
              />
            )}
            {side === "border" && (
              <BorderPane
                slug={slug}
                trying={trying}
                tried={tried.data}
                stamp={stamp}
                walk={{ ...walk, limit }}
                around={around}
                onWalk={start}
                onOne={lookAt}
              />
            )}
            {side === "measure" && (
              <MeasurePane slug={slug} trying={trying} bench={bench.data} stamp={stamp} onOne={lookAt} />
            )}
            {side === "learn" && (
              <LearnPane slug={slug} trying={trying} stamp={stamp} text={text} onChange={onChange} onOne={lookAt} />
            )}
            {side === "one" && (
              <OnePairPane
                slug={slug}
                trying={trying}
                compared={tried.data.comparisons.map(({ name }) => name)}
                stamp={stamp}
                sides={sides}
                onSides={setSides}
              />
            )}
          </>
        ) : (
          <Cold slug={slug} bench={bench.data} error={tried.error ?? bench.error} records={records} />
        )}
      </div>
    </>
  );
}

/** Warm the bench when it is cold: once, and not after it failed. */
function useWarm(slug: string, bench: Bench | undefined, records: number) {
  const settle = useSettle(slug);
  const asked = useRef(false);
  const cold = bench && !bench.warm && !bench.running && !bench.error && records > 1;
  useEffect(() => {
    if (!cold || asked.current) return;
    asked.current = true;
    settle.mutate({ yaml: "", hold: true });
  }, [cold]);
}

/** Settle an edited plan by itself where that takes a moment only. */
function useSettleByItself(
  slug: string,
  bench: Bench | undefined,
  tried: Tried | undefined,
  yaml: string,
  shown: boolean,
  records: number,
) {
  const settle = useSettle(slug);
  const due =
    shown &&
    records <= SETTLED_BY_ITSELF &&
    Boolean(bench?.warm) &&
    !bench?.running &&
    !bench?.error &&
    tried?.settled === null;
  const again = shown && due === false && tried?.settled && !tried.against_settled && !bench?.running && !bench?.error;
  useEffect(() => {
    if (!due && !(again && records <= SETTLED_BY_ITSELF)) return;
    const timer = setTimeout(() => settle.mutate(due ? { yaml, hold: true } : { yaml: "", hold: false }), STILL_MS);
    return () => clearTimeout(timer);
  }, [due, again, yaml]);
}

/** While there is nothing to show yet. */
function Cold({
  slug,
  bench,
  error,
  records,
}: {
  slug: string;
  bench: Bench | undefined;
  error: Error | null;
  records: number;
}) {
  const settle = useSettle(slug);
  if (records < 2)
    return (
      <Empty title="There is nothing to try a plan on yet.">
        <p>Bring in a delivery first.</p>
      </Empty>
    );
  if (bench?.error || (error && !bench?.running))
    return (
      <div className="space-y-2 p-4">
        <Trouble error={error ?? new Error(bench?.error)} />
        <Button
          onClick={() =>
            settle.mutate({ yaml: "", hold: true }, { onError: (trouble) => notify(trouble.message, true) })
          }
        >
          Warm the bench again
        </Button>
      </div>
    );
  return (
    <Empty title="The bench is being warmed.">
      <p role="status">
        {bench?.running
          ? `The plan in force is matched once: ${bench.stage}`
          : "It holds pairs of the register, so that an edit shows at once"}
        {bench?.running && bench.total > 0 && `, ${Math.round((100 * bench.done) / bench.total)} %`}.
      </p>
    </Empty>
  );
}

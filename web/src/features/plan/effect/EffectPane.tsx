import { useMemo, useState } from "react";
import { type Limits, limitCounter } from "../../../domain/bench";
import { Choice } from "../../../ui";
import type { Bench, Shown, Tried, Trying } from "../bench";
import { ClusterChanges } from "./ClusterChanges";
import { Counts } from "./Counts";
import { Curve } from "./Curve";
import { DecidingTables } from "./DecidingTables";
import { SettledLine } from "./SettledLine";

interface Props {
  slug: string;
  trying: Trying;
  bench: Bench;
  tried: Tried;
  stamp: string;
  onPass: (pass: number) => void;
  onLimits: (limits: Limits) => void;
  onWalk: (walk: { shown?: Shown; decided_by?: string; condition?: string }) => void;
  onReorder: () => void;
}

/** What the plan does: the distribution of scores with limits that follow the hand, and what they make of it. */
export function EffectPane({ slug, trying, bench, tried, stamp, onPass, onLimits, onWalk, onReorder }: Props) {
  const [moving, setMoving] = useState<Limits | null>(null);
  const [changes, setChanges] = useState(false);
  const counter = useMemo(() => limitCounter(tried.curve, tried.records), [tried]);
  const limits = moving ?? { same: tried.same_limit, unsure: tried.unsure_limit };
  return (
    <section aria-label="What the plan does" className="px-4 py-2">
      {tried.passes.length > 1 && (
        <Choice
          label="Pass"
          value={`${tried.number}`}
          options={tried.passes.map((title, place) => ({ value: `${place}`, label: `${place + 1}. ${title}` }))}
          onChange={(value) => onPass(Number(value))}
          className="mb-1 min-w-56"
        />
      )}
      <Counts counts={counter(limits)} tried={tried} bench={bench} onWalk={(shown) => onWalk({ shown })} />
      <Curve
        curve={tried.curve}
        limits={limits}
        onMove={setMoving}
        onSet={(set) => {
          setMoving(null);
          onLimits(set);
        }}
      />
      <SettledLine
        slug={slug}
        yaml={trying.yaml}
        bench={bench}
        tried={tried}
        shown={changes}
        onShow={() => setChanges(!changes)}
      />
      {changes && tried.settled && <ClusterChanges slug={slug} trying={trying} stamp={stamp} />}
      <DecidingTables
        tried={tried}
        onComparison={(decided_by) => onWalk({ decided_by })}
        onCondition={(condition) => onWalk({ condition })}
        onReorder={onReorder}
      />
    </section>
  );
}

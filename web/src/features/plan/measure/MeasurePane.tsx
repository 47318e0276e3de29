import { useState } from "react";
import { signedPercent } from "../../../domain/bench";
import { count, counted, moment } from "../../../domain/format";
import { Button, Faces, notify } from "../../../ui";
import type { Bench, BorderPair, Trying } from "../bench";
import { PairWalk } from "../pairs/PairWalk";
import { OutsidePart } from "./OutsidePart";
import { QualityCurve } from "./QualityCurve";
import { QualityFigures } from "./QualityFigures";
import { type Measured, useDrawSample, useMeasured, useOpenPairs } from "./queries";
import { StrataTable } from "./StrataTable";

/** So many pairs are drawn at a time. */
const AT_A_TIME = 60;
/** From so many decisions on it can be told how many more there should be. */
const ENOUGH_TO_TELL = 20;

interface Props {
  slug: string;
  trying: Trying;
  bench: Bench;
  stamp: string;
  onOne: (pair: BorderPair) => void;
}

/** How good the plan is, measured by decided pairs; and the way to decide where a figure is too uncertain. */
export function MeasurePane({ slug, trying, bench, stamp, onOne }: Props) {
  const query = useMeasured(slug, trying, stamp);
  const [walking, setWalking] = useState<"sample" | "outside" | null>(null);
  const [round, setRound] = useState(0);
  const walk = (what: "sample" | "outside") => {
    setRound(round + 1);
    setWalking(what);
  };
  if (walking)
    return (
      <Walk slug={slug} trying={trying} what={walking} round={round} onOne={onOne} onBack={() => setWalking(null)} />
    );
  return (
    <section aria-label="How good the plan is" className="px-4 py-2">
      <Faces query={query}>
        {(measured) => (
          <>
            <QualityFigures quality={measured.own.quality} />
            <SampleLine slug={slug} trying={trying} measured={measured} onDecide={() => walk("sample")} />
            <QualityCurve measured={measured} />
            <StrataTable strata={measured.strata} />
            <OutsidePart
              slug={slug}
              trying={trying}
              bench={bench}
              measured={measured}
              onDecide={() => walk("outside")}
            />
          </>
        )}
      </Faces>
    </section>
  );
}

interface SampleProps {
  slug: string;
  trying: Trying;
  measured: Measured;
  onDecide: () => void;
}

/** By how many decisions the figures are told, and how to tell them better. */
function SampleLine({ slug, trying, measured, onDecide }: SampleProps) {
  const draw = useDrawSample(slug);
  const open = measured.drawn - measured.decided;
  const more = (anew: boolean) =>
    draw.mutate({ ...trying, many: AT_A_TIME, anew }, { onSuccess: onDecide, onError: (error) => notify(error, true) });
  const by =
    measured.decided + measured.known === 0
      ? "Nothing is decided yet: these are the plan's own expectations."
      : `By ${counted(measured.decided, "fairly drawn decision")} and ${counted(measured.known, "other")}.`;
  return (
    <div className="my-2 flex flex-wrap items-center gap-2 text-sm">
      <p className="basis-full">
        {by}{" "}
        {measured.decided < ENOUGH_TO_TELL
          ? ""
          : measured.needed > 0
            ? `About ${counted(Number(measured.needed.toPrecision(2)), "more decision")} would tell precision and recall to ± 1 %.`
            : "Precision and recall are known to ± 1 %."}
        {measured.drawn_at && (
          <span className="text-soft">
            {" "}
            The sample was begun {moment(measured.drawn_at)} by {measured.drawn_by}.
          </span>
        )}
      </p>
      <Gained measured={measured} />
      {open > 0 && (
        <Button needs="decide" look="main" onClick={onDecide}>
          Decide {count(open)} drawn pairs
        </Button>
      )}
      <Button needs="try" look={open > 0 ? "plain" : "main"} disabled={draw.isPending} onClick={() => more(false)}>
        {measured.drawn > 0 ? `Draw ${AT_A_TIME} more` : `Draw ${AT_A_TIME} pairs to decide`}
      </Button>
      {measured.drawn > 0 && (
        <Button
          needs="try"
          disabled={draw.isPending}
          onClick={() => more(true)}
          title="What is decided stays, as other decisions"
        >
          Begin a new sample
        </Button>
      )}
    </div>
  );
}

/** What is gained against the other version: surer than either figure, since both rest on the same decisions. */
function Gained({ measured }: { measured: Measured }) {
  const { f1_gained: gained, against_version: version, decided, known } = measured;
  if (decided + known === 0 || (gained.low === 0 && gained.high === 0)) return null;
  const verdict = gained.low > 0 ? "better" : gained.high < 0 ? "worse" : "no difference shown yet";
  return (
    <p className="basis-full">
      Against version {version}, by the same decisions: F1 {signedPercent(gained.value)} ({signedPercent(gained.low)} to{" "}
      {signedPercent(gained.high)}): <b>{verdict}</b>.
    </p>
  );
}

interface WalkProps {
  slug: string;
  trying: Trying;
  what: "sample" | "outside";
  round: number;
  onOne: (pair: BorderPair) => void;
  onBack: () => void;
}

function Walk({ slug, trying, what, round, onOne, onBack }: WalkProps) {
  const query = useOpenPairs(slug, trying, what, round);
  return (
    <section aria-label="Pairs to decide" className="flex h-full min-h-0 flex-col">
      <p className="flex items-center gap-3 border-b border-line px-4 py-2 text-sm">
        <Button onClick={onBack}>Back to the figures</Button>
        <span>
          {what === "sample"
            ? "Drawn by chance, in no order. Leave out what cannot be told."
            : "No block brings these together. Those that score highest come first."}
        </span>
      </p>
      <Faces query={query}>
        {(pairs) => (
          <PairWalk label="Pairs to decide" slug={slug} pairs={pairs} none="All of them are decided." onOne={onOne} />
        )}
      </Faces>
    </section>
  );
}

import { Choice, Faces } from "../../../ui";
import { type BorderPair, type Shown, type Tried, type Trying, useBorder, type Walk } from "../bench";
import { PairWalk } from "../pairs/PairWalk";

interface Props {
  slug: string;
  trying: Trying;
  tried: Tried;
  stamp: string;
  walk: Walk;
  around: "same" | "unsure";
  onWalk: (walk: Partial<Walk> & { around?: "same" | "unsure" }) => void;
  onOne: (pair: BorderPair) => void;
}

const SHOWN: { value: Shown; label: string }[] = [
  { value: "all", label: "all pairs" },
  { value: "gained", label: "gained" },
  { value: "lost", label: "lost" },
];

/** The pairs at a limit in order of score, to walk along until they turn wrong, and to decide on the spot. */
export function BorderPane({ slug, trying, tried, stamp, walk, around, onWalk, onOne }: Props) {
  const query = useBorder(slug, trying, walk, stamp, true);
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
        {(pairs) => (
          <PairWalk
            label="Pairs by score"
            slug={slug}
            pairs={pairs}
            none="No pair is like that."
            limit={walk.limit}
            onOne={onOne}
          />
        )}
      </Faces>
    </section>
  );
}

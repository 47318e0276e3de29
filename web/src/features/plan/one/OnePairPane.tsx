import { useLayout } from "../../../api/registers";
import { Faces, useSettledText } from "../../../ui";
import type { Trying } from "../bench";
import { OnePairView } from "./OnePairView";
import { type Side, useOnePair } from "./queries";
import { SideInputs } from "./SideInputs";

export interface Sides {
  left: Side;
  right: Side;
}

interface Props {
  slug: string;
  trying: Trying;
  compared: readonly string[];
  stamp: string;
  sides: Sides;
  onSides: (sides: Sides) => void;
}

/** One pair, typed or picked: everything the plan says of it, and the stage at which the two would be lost. */
export function OnePairPane({ slug, trying, compared, stamp, sides, onSides }: Props) {
  const layout = useLayout(slug);
  const still = JSON.parse(useSettledText(JSON.stringify(sides), 300)) as Sides;
  const query = useOnePair(slug, trying, still.left, still.right, stamp);
  const fields = (layout.data?.fields ?? []).filter(({ name }) =>
    compared.some((field) => name === field || name.split(".")[0] === field.split(".")[0]),
  );
  return (
    <section aria-label="One pair" className="px-4 py-2 text-sm">
      <div className="grid grid-cols-2 gap-4">
        {(["left", "right"] as const).map((side) => (
          <SideInputs
            key={side}
            slug={slug}
            side={side}
            fields={fields}
            given={sides[side]}
            onChange={(given) => onSides({ ...sides, [side]: given })}
          />
        ))}
      </div>
      {query.fetchStatus === "idle" && !query.data ? (
        <p className="mt-3 text-soft">Type values on both sides, or find a record for either.</p>
      ) : (
        <Faces query={query}>{(pair) => <OnePairView pair={pair} />}</Faces>
      )}
    </section>
  );
}

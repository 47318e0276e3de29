import { Button } from "../../../ui";
import type { Chain } from "./queries";
import { StepEditor, type Surroundings } from "./StepEditor";

interface Props {
  unit: string;
  label: string;
  chain: Chain;
  within: Surroundings;
  onChange: (chain: Chain) => void;
}

const MOST_STEPS = 8;

/** The chain of rules of one unit: each tie goes to the next. */
export function ChainEditor({ unit, label, chain, within, onChange }: Props) {
  const change = (place: number, ...steps: Chain) => onChange(chain.toSpliced(place, 1, ...steps));
  return (
    <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
      {chain.map((step, place) => (
        // Steps have no identity of their own: their place is what they are.
        <span key={place} className="inline-flex items-center">
          {place > 0 && <span className="mr-2 text-soft text-xs">then</span>}
          <StepEditor
            about={`${label}, step ${place + 1}`}
            unit={unit}
            step={step}
            within={within}
            onChange={(next) => change(place, next)}
          />
          {chain.length > 1 && (
            <Button look="quiet" aria-label={`${label}: remove step ${place + 1}`} onClick={() => change(place)}>
              ×
            </Button>
          )}
        </span>
      ))}
      {chain.length < MOST_STEPS && (
        <Button
          look="quiet"
          aria-label={`${label}: add a step for ties`}
          onClick={() => onChange([...chain, { by: "source rank", field: "", sources: [], values: [] }])}
        >
          then…
        </Button>
      )}
    </div>
  );
}

import { percent } from "../../../domain/bench";
import type { Estimate, Quality } from "./queries";

const FIGURES: { name: keyof Quality; label: string; says: string }[] = [
  { name: "precision", label: "precision", says: "of the pairs called the same are the same" },
  { name: "recall", label: "recall", says: "of the true pairs that are compared are called the same" },
  { name: "f1", label: "F1", says: "both together, their harmonic mean" },
];

/** Precision, recall and F1, each with the interval that holds it 95 times in a hundred. */
export function QualityFigures({ quality }: { quality: Quality }) {
  return (
    <dl className="grid grid-cols-3 gap-4">
      {FIGURES.map(({ name, label, says }) => (
        <div key={name} title={says}>
          <dt className="text-xs text-soft">{label}</dt>
          <dd>
            <span className="font-mono text-lg font-semibold">{percent(quality[name].value)}</span>
            <span className="ml-2 font-mono text-xs text-soft">
              {percent(quality[name].low)} to {percent(quality[name].high)}
            </span>
            <Bar estimate={quality[name]} />
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Bar({ estimate }: { estimate: Estimate }) {
  const { low, high, value } = estimate;
  return (
    <svg viewBox="0 0 100 8" preserveAspectRatio="none" className="mt-0.5 h-2 w-full" aria-hidden="true">
      <rect width="100" height="8" fill="var(--sunk)" />
      <rect x={100 * low} width={Math.max(100 * (high - low), 0.6)} height="8" fill="var(--plum)" opacity="0.35" />
      <rect x={Math.min(100 * value, 99.2)} width="0.8" height="8" fill="var(--plum)" />
    </svg>
  );
}

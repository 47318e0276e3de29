import type { Schemas } from "../api/client";

type Curve = Schemas["CurveOut"];

/** Two limits in bits: from `same` on a pair is the same, from `unsure` on in doubt. */
export interface Limits {
  same: number;
  unsure: number;
}

/** What the limits would make of the held pairs; `margin` is how far `same` may be off where not all pairs are held. */
export interface LimitCounts {
  same: number;
  unsure: number;
  different: number;
  golden: number;
  margin: number;
}

const AT_95 = 1.96;

/** Running sums from the highest bin down: entry n holds everything from bin n up. */
function fromAbove(values: readonly number[]): number[] {
  const sums = new Array<number>(values.length + 1).fill(0);
  for (let bin = values.length - 1; bin >= 0; bin--) sums[bin] = (sums[bin + 1] ?? 0) + (values[bin] ?? 0);
  return sums;
}

/** The bin in which a score falls; scores outside fall into the outermost ones. */
export function binOf(curve: Curve, bits: number): number {
  const bin = Math.floor((bits - curve.low) * curve.per_bit);
  return Math.max(0, Math.min(curve.free.length - 1, bin));
}

/** Sum the curve up once; what it returns tells the counts for any limits at once, as often as a hand moves. */
export function limitCounter(curve: Curve, records: number): (limits: Limits) => LimitCounts {
  const free = fromAbove(curve.free);
  const capped = fromAbove(curve.capped);
  const joining = fromAbove(curve.joining);
  const spread = fromAbove(curve.spread);
  return ({ same, unsure }) => {
    const upper = binOf(curve, same);
    const lower = Math.min(binOf(curve, unsure), upper);
    const at = (sums: readonly number[], bin: number) => sums[bin] ?? 0;
    return {
      same: curve.fixed_same + at(free, upper),
      unsure: curve.fixed_unsure + at(free, lower) - at(free, upper) + at(capped, lower),
      different: curve.fixed_different + at(free, 0) - at(free, lower) + at(capped, 0) - at(capped, lower),
      golden: records - curve.always_joined - at(joining, upper),
      margin: AT_95 * Math.sqrt(at(spread, upper)),
    };
  };
}

/** A limit as it can be set: a quarter of a bit at a time. */
export function toQuarter(bits: number): number {
  return Math.round(bits * 4) / 4;
}

/** Hours of review for so many doubts at so many seconds each, in words: "25 min", "3.5 h". */
export function hoursOfReview(pairs: number, secondsEach: number): string {
  const minutes = (pairs * secondsEach) / 60;
  if (minutes < 1) return pairs > 0 ? "1 min" : "0 min";
  return minutes < 90 ? `${Math.round(minutes)} min` : `${(minutes / 60).toFixed(1)} h`;
}

/** A share in per cent with one decimal; what is not all never shows as 100. */
export function percent(share: number): string {
  const tenths = share < 1 ? Math.min(Math.round(1000 * share), 999) : 1000;
  return `${(tenths / 10).toFixed(1)} %`;
}

/** A difference of shares in per cent with one decimal and its sign: "+4.6 %". */
export function signedPercent(share: number): string {
  const tenths = Math.round(1000 * share) / 10;
  return `${tenths < 0 ? "−" : "+"}${Math.abs(tenths).toFixed(1)} %`;
}

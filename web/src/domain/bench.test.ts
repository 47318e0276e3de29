import { describe, expect, it } from "vitest";
import { binOf, hoursOfReview, limitCounter, percent, signedPercent, toQuarter } from "./bench";

const zero = () => new Array<number>(400).fill(0);
const curve = {
  low: -40,
  per_bit: 4,
  free: zero(),
  capped: zero(),
  joining: zero(),
  spread: zero(),
  fixed_same: 5,
  fixed_unsure: 2,
  fixed_different: 7,
  always_joined: 3,
};
const put = (values: number[], bits: number, amount: number) => {
  values[binOf(curve, bits)] = amount;
};
put(curve.free, 10, 100);
put(curve.free, 3, 20);
put(curve.free, -8, 400);
put(curve.capped, 9, 11);
put(curve.joining, 10, 60);
put(curve.joining, 3, 4);
put(curve.spread, 10, 100);

describe("the counts that limits make", () => {
  const counts = limitCounter(curve, 1000);

  it("add up to all pairs wherever the limits are", () => {
    for (let same = -45; same < 65; same += 1.25)
      for (let unsure = -45; unsure <= same; unsure += 3.5) {
        const told = counts({ same, unsure });
        expect(told.same + told.unsure + told.different).toBe(5 + 2 + 7 + 100 + 20 + 400 + 11);
      }
  });

  it("follow the limits: what a condition caps is never the same", () => {
    expect(counts({ same: 4, unsure: -6 })).toMatchObject({ same: 105, unsure: 33, golden: 937 });
    expect(counts({ same: 3, unsure: -6 })).toMatchObject({ same: 125, unsure: 13, golden: 933 });
    expect(counts({ same: 3, unsure: -9 }).unsure).toBe(413);
    expect(counts({ same: 4, unsure: -6 }).margin).toBeCloseTo(19.6);
  });

  it("an empty band of doubt leaves nobody in it but what is fixed", () => {
    expect(counts({ same: 4, unsure: 4 }).unsure).toBe(2 + 11);
  });
});

it("limits move by a quarter of a bit, and hours of review are told in words", () => {
  expect(toQuarter(3.9)).toBe(4);
  expect(toQuarter(-0.13)).toBe(-0.25);
  expect(hoursOfReview(0, 20)).toBe("0 min");
  expect(hoursOfReview(1, 20)).toBe("1 min");
  expect(hoursOfReview(90, 20)).toBe("30 min");
  expect(hoursOfReview(900, 20)).toBe("5.0 h");
});

describe("shares", () => {
  it("never show as all where something is missing", () => {
    expect(percent(1)).toBe("100.0 %");
    expect(percent(0.99999)).toBe("99.9 %");
    expect(percent(0)).toBe("0.0 %");
    expect(percent(0.4567)).toBe("45.7 %");
  });

  it("show what is gained and lost with a sign", () => {
    expect(signedPercent(0.046)).toBe("+4.6 %");
    expect(signedPercent(-0.046)).toBe("−4.6 %");
    expect(signedPercent(0)).toBe("+0.0 %");
  });
});

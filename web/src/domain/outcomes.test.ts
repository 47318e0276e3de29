import { describe, expect, it } from "vitest";
import { isOutcome, outcomesOf } from "./outcomes";

describe("what came of a delivery", () => {
  it("tells what came up, in one order, and nothing else", () => {
    expect(outcomesOf({ doubtful: 2, ended: 0, unchanged: 40, at: 7 })).toEqual([
      ["unchanged", 40],
      ["doubtful", 2],
    ]);
    expect(isOutcome("refused by the wind")).toBe(false);
  });
});

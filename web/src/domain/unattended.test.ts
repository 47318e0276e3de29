import { describe, expect, it } from "vitest";
import { shareOf, tookInWords } from "./unattended";

describe("unattended turns in words", () => {
  it("reads percent as shares, and nothing else", () => {
    expect([shareOf("50"), shareOf(" 7.5 "), shareOf("0"), shareOf("100")]).toEqual([0.5, 0.075, 0, 1]);
    expect([shareOf(""), shareOf("101"), shareOf("-1"), shareOf("half")]).toEqual([null, null, null, null]);
  });

  it("tells how long a turn took", () => {
    const began = "2026-11-27T02:30:00Z";
    expect(tookInWords(began, "2026-11-27T02:30:41Z")).toBe("41 s");
    expect(tookInWords(began, "2026-11-27T02:41:00Z")).toBe("11 min");
    expect(tookInWords(began, "2026-11-27T04:36:00Z")).toBe("2.1 h");
    expect(tookInWords(began, null)).toBe("");
  });
});

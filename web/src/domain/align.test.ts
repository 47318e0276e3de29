import { describe, expect, it } from "vitest";
import { align, type Stretch } from "./align";

const text = (stretches: Stretch[]) => stretches.map((stretch) => stretch.text).join("");
const marked = (stretches: Stretch[]) => stretches.filter((stretch) => !stretch.common).map((stretch) => stretch.text);

describe("align", () => {
  it("marks what is only on one side", () => {
    const [left, right] = align("Skua Rope Works", "Skua Rope Works Ltd");
    expect(marked(left)).toEqual([]);
    expect(marked(right)).toEqual([" Ltd"]);
  });

  it("takes case and accents for no difference", () => {
    const [left, right] = align("Rønne", "RØNNE");
    expect(marked(left)).toEqual([]);
    expect(marked(right)).toEqual([]);
  });

  it("calls values with little in common wholly different", () => {
    expect(align("Dunkerque", "Concarneau").map(marked)).toEqual([["Dunkerque"], ["Concarneau"]]);
  });

  it("gives back every value whole, whatever the two are", () => {
    const letters = ["a", "b", " ", "é", "7", "𝄞"];
    for (let round = 0; round < 300; round++) {
      const word = (seed: number) =>
        Array.from(
          { length: seed % 9 },
          (_, place) => letters[(seed * 7 + place * place * round) % letters.length],
        ).join("");
      const [left, right] = [word(round), word(round * 3 + 1)];
      const [one, other] = align(left, right);
      expect(text(one)).toBe(left);
      expect(text(other)).toBe(right);
    }
  });

  it("handles values longer than it aligns", () => {
    const long = "x".repeat(400);
    expect(text(align(long, `${long}y`)[1])).toBe(`${long}y`);
  });
});

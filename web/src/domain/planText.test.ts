import { describe, expect, it } from "vitest";
import { at, readPlan, withEdits, withItem, withOrder, withPart } from "./planText";

const TEXT = `# How organisations are matched.
title: Organisations
# From so many bits on.
limits:
  same: 4.0 # a bit is a doubling
  unsure: -6.0
blocking:
  keys:
    - name|rarest 2
    - phone.end
conditions:
  # first of all
  - title: one
    then: same
  - title: two
    then: unsure
`;

describe("a plan edited part by part", () => {
  it("keeps comments and everything beside what is edited", () => {
    const edited = withPart(readPlan(TEXT), ["limits", "same"], 7.5);
    expect(edited).toContain("same: 7.5 # a bit is a doubling");
    expect(edited).toContain("# From so many bits on.");
    expect(edited.split("\n").length).toBe(TEXT.split("\n").length);
    expect(at(readPlan(edited), ["limits", "unsure"])).toBe(-6);
  });

  it("adds to lists and makes those that were not there", () => {
    const more = withItem(readPlan(TEXT), ["blocking", "keys"], "email");
    expect(at(readPlan(more), ["blocking", "keys"])).toEqual(["name|rarest 2", "phone.end", "email"]);
    const vetoes = withItem(readPlan(TEXT), ["vetoes"], { field: "name", level: "contradicting" });
    expect(at(readPlan(vetoes), ["vetoes"])).toEqual([{ field: "name", level: "contradicting" }]);
  });

  it("takes away, and with the last item the list", () => {
    let text = withPart(readPlan(TEXT), ["conditions", 0], undefined);
    expect(at(readPlan(text), ["conditions"])).toEqual([{ title: "two", then: "unsure" }]);
    text = withPart(readPlan(text), ["conditions", 0], undefined);
    expect(at(readPlan(text), ["conditions"])).toBeUndefined();
  });

  it("moves items with the comments that stand at them", () => {
    const moved = withOrder(readPlan(TEXT), ["conditions"], [1, 0]);
    expect(at<{ title: string }[]>(readPlan(moved), ["conditions"])?.map(({ title }) => title)).toEqual(["two", "one"]);
    expect(moved).toMatch(/# first of all\n\s*- title: one/);
  });

  it("leaves a text alone that is no plan", () => {
    const broken = readPlan("title: [");
    expect(broken.document).toBeNull();
    expect(withPart(broken, ["title"], "x")).toBe("title: [");
    expect(at(broken, ["title"])).toBeUndefined();
  });
});

describe("several edits", () => {
  const text =
    "# mine\nlimits: {same: 4, unsure: -6} # here\ncomparisons:\n  - {field: name, using: exact}\nlearning: {decisions: 3}\n";

  it("are made one after the other, and comments stay", () => {
    const edited = withEdits(readPlan(text), [
      { place: ["limits", "same"], value: 2 },
      { place: ["comparisons", 0, "learned"], value: { equal: 1.5 } },
      { place: ["learning"], value: null },
    ]);
    expect(at(readPlan(edited), ["limits"])).toEqual({ same: 2, unsure: -6 });
    expect(at(readPlan(edited), ["comparisons", 0, "learned"])).toEqual({ equal: 1.5 });
    expect(at(readPlan(edited), ["learning"])).toBeUndefined();
    expect(edited).toContain("# mine");
    expect(edited).toContain("# here");
  });

  it("change nothing where there are none", () => {
    expect(withEdits(readPlan(text), [])).toBe(text);
  });
});

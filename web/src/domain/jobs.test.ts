import { describe, expect, it } from "vitest";
import { job } from "../tests/examples";
import { outcomeOf } from "./jobs";

const done = (kind: string, result: Record<string, unknown>) => outcomeOf(job({ status: "done", kind, result }));

describe("what a job did, in words", () => {
  it("tells counts in the order of the table of deliveries", () => {
    expect(done("load", { gone: 1, rejected: 0, rows: 12, new: 4, changed: 2, unchanged: 6, run_id: 9 })).toBe(
      "rows 12, new 4, changed 2, unchanged 6, rejected 0, gone 1",
    );
  });

  it("does not tell what a merge did not do", () => {
    expect(done("merge", { made: 1500, grown: 0, merged: 3, split: 0 })).toBe("made 1\u202f500, merged 3");
    expect(done("merge", { made: 0 })).toBe("nothing to do");
  });

  it("leaves out what is no figure, and says why one failed", () => {
    expect(done("run", { run_id: 4, records: 7, note: "x" })).toBe("records 7");
    expect(outcomeOf(job({ status: "failed", message: "The disk is full." }))).toBe("The disk is full.");
  });
});

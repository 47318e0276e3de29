import { expect, it } from "vitest";
import { moved, newStep, sameSteps, withField } from "./tidySteps";

const pad = { do: "pad", width: "6" };
const spaces = { do: "spaces" };

it("starts a step with its usual parameters", () => {
  const parameter = (name: string, ask: string, usual = "") => ({
    name,
    label: name,
    ask,
    choices: [],
    default: usual,
  });
  const kind = {
    name: "x",
    says: "",
    parameters: [parameter("width", "number", "6"), parameter("from", "field"), parameter("table", "table")],
  };
  expect(newStep(kind, { field: "name", table: "forms" })).toEqual({
    do: "x",
    width: "6",
    from: "name",
    table: "forms",
  });
});

it("moves steps, but not beyond the ends", () => {
  expect(moved([pad, spaces], 1, -1)).toEqual([spaces, pad]);
  expect(moved([pad, spaces], 0, -1)).toEqual([pad, spaces]);
  expect(moved([pad, spaces], 1, 1)).toEqual([pad, spaces]);
});

it("knows whether anything was changed, whatever the order of fields and parameters", () => {
  const saved = { name: [spaces], phone: [{ width: "6", do: "pad" }] };
  expect(sameSteps(saved, withField(withField({}, "phone", [pad]), "name", [spaces]))).toBe(true);
  expect(sameSteps(saved, withField(saved, "name", []))).toBe(false);
});

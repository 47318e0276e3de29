import { expect, it } from "vitest";
import { assignmentsOf, complete, nothing, withColumn, withConstants } from "./mapping";

const COLUMNS = ["No", "Firm", "Tel", "Fax"];
const from = (field: string, column: string) => ({ ...nothing(column), field });

it("keeps assignments in the order of columns, whichever was chosen last", () => {
  const fax = withColumn([], COLUMNS, "Fax", [from("phone", "Fax")]);
  const both = withColumn(fax, COLUMNS, "Tel", [from("phone", "Tel"), from("identifier", "Tel")]);
  expect(both.map(({ column, field }) => `${column} ${field}`)).toEqual(["Tel phone", "Tel identifier", "Fax phone"]);
  expect(withColumn(both, COLUMNS, "Tel", [from("", "Tel")])).toEqual(fax);
});

it("shows an unused column as one that becomes nothing", () => {
  expect(assignmentsOf([], "Firm")).toEqual([from("", "Firm")]);
});

it("leaves constants out while they are typed", () => {
  const mapping = withConstants(
    [from("name", "Firm")],
    [
      { ...from("address.country", ""), constant: "NO" },
      { ...from("phone", ""), constant: " " },
    ],
  );
  expect(complete(mapping)).toHaveLength(2);
  expect(withConstants(mapping, [])).toEqual([from("name", "Firm")]);
});

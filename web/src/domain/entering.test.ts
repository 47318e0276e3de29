import { describe, expect, it } from "vitest";
import { filledFrom, plainPart, typedFields, typedName } from "./entering";
import { EVENT_KINDS, fares, heard } from "./told";

describe("entering a record", () => {
  it("knows a name that is typed whole or in parts", () => {
    expect(typedName({ name: " Quokka Hire ", "name.family": "x" })).toBe("Quokka Hire");
    expect(typedName({ name: " ", "name.given": "Ada ", "name.family": "Merrow" })).toBe("Ada Merrow");
    expect(typedName({ "name.family": "Merrow" })).toBe("Merrow");
    expect(typedName({ phone: "1" })).toBe("");
  });

  it("fills what is empty or typed in part, and leaves what was typed otherwise", () => {
    const typed = { name: "turnstone ", phone: "01632 960001", "address.city": "" };
    const taken = { name: "Turnstone Yacht Club", phone: "01632 960261", "address.city": "Holyhead", tax_number: "4" };
    expect(filledFrom(typed, taken)).toEqual({
      name: "Turnstone Yacht Club",
      phone: "01632 960001",
      "address.city": "Holyhead",
      tax_number: "4",
    });
  });

  it("asks for what a person knows", () => {
    const fields = [
      { name: "name", kind: "organisation name" },
      { name: "firm", kind: "reference" },
      { name: "updated_on", kind: "date" },
    ];
    expect(typedFields(fields).map(({ name }) => name)).toEqual(["name"]);
  });

  it("sends no more of a part than it needs", () => {
    expect(plainPart({ how: "plan same", field: "phone", letters: 5 })).toEqual({
      how: "plan same",
      field: "",
      letters: 0,
    });
    expect(plainPart({ how: "same", field: "phone", letters: 5 }).letters).toBe(0);
    expect(plainPart({ how: "last", field: "phone", letters: 5 }).letters).toBe(5);
  });
});

describe("who is told", () => {
  it("says in words what it hears and how it fares", () => {
    expect([heard([]), heard(EVENT_KINDS), heard(["golden.ended"])]).toEqual([
      "everything",
      "everything",
      "golden.ended",
    ]);
    const well = { on: true, failures: 0, why: "", waiting: 0 };
    expect(fares(well)).toBe("nothing waits");
    expect(fares({ ...well, failures: 3, why: "answered 503", waiting: 1200 })).toBe(
      "tried 3 times, 1,200 wait: answered 503",
    );
    expect(fares({ ...well, on: false, waiting: 10_000 })).toBe("told nothing for now, 10,000 or more wait");
  });
});

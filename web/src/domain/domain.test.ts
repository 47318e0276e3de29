import { describe, expect, it } from "vitest";
import { gape, lanes, likelihood, stitches } from "./evidence";
import { comparisonOf, faceToFace, meansTheSame, tidyOf, tidyRowsOf, valuesOf } from "./fields";
import { bits, count, counted, duration, nameOf, share } from "./format";

describe("tidy values of a field", () => {
  const tidy = {
    name: "tern",
    "name.legal_form": "limited",
    "name#2": "rope shop",
    "address.number": "14",
    "address.street": "harbour street",
    phone: "+441632960001",
  };

  it("joins the parts of a field and puts further values after a slash", () => {
    expect(tidyOf("name", tidy)).toBe("tern · limited / rope shop");
    expect(tidyOf("address.line", tidy)).toBe("14 · harbour street");
    expect(tidyOf("phone", tidy)).toBe("+441632960001");
  });

  it("shows the house number with its street only", () => {
    expect(tidyOf("address.number", tidy)).toBe("");
    expect(tidyOf("email", tidy)).toBe("");
  });
});

describe("what two records mean", () => {
  it("is the same in other writing, and a number is with and without its country", () => {
    expect(meansTheSame("address.country", { "address.country": "DK" }, { "address.country": "DK" })).toBe(true);
    expect(meansTheSame("phone", { phone: "+4411", "phone.end": "11" }, { phone: "011", "phone.end": "11" })).toBe(
      true,
    );
    expect(meansTheSame("phone", { phone: "+4411", "phone.end": "11" }, { phone: "+4412", "phone.end": "12" })).toBe(
      false,
    );
    expect(meansTheSame("email", {}, {})).toBe(false);
  });

  it("stands in the order of the register's fields, in words", () => {
    const fields = [
      { name: "name", label: "Name" },
      { name: "address.line", label: "Street" },
      { name: "address.city", label: "Town" },
      { name: "phone", label: "Phone" },
    ];
    const left = { phone: "1", "phone.end": "1", "name.legal_form": "limited", name: "tern", boat_class: "x" };
    const right = { "address.street": "quay road", "address.city": "oban", "name#2": "tern ropes" };
    expect(tidyRowsOf(fields, left, right).map(({ label }) => label)).toEqual([
      "Name",
      "Name: legal form",
      "Name: 2",
      "Address street",
      "Town",
      "Phone",
      "Boat class",
    ]);
  });
});

describe("likelihood in words", () => {
  it.each([
    [0.5, "50 %"],
    [0.667, "67 %"],
    [0.0154, "2 %"],
    [0.992, "99.2 %"],
    [1, "over 99.9 %"],
    [0, "under 0.1 %"],
  ])("says %d as %s", (probability, text) => {
    expect(likelihood(probability)).toBe(text);
  });
});

describe("evidence", () => {
  it("lays segments end to end, so that the ends of both lanes add up to the score", () => {
    const { pro, contra } = lanes([
      { label: "name", bits: 7, sentence: "the name says so" },
      { label: "phone", bits: -1.5, sentence: "the phone says so" },
      { label: "e-mail", bits: 3, sentence: "the e-mail says so" },
      { label: "web site", bits: 0, sentence: "the web site says so" },
    ]);
    expect(pro.map(({ label, from, to }) => [label, from, to])).toEqual([
      ["name", 0, 7],
      ["e-mail", 7, 10],
    ]);
    expect(pro[0]?.sentence).toBe("the name says so");
    expect((pro.at(-1)?.to ?? 0) + (contra.at(-1)?.to ?? 0)).toBe(8.5);
  });

  it("stitches agreement and gapes at difference, never both", () => {
    for (let value = -20; value <= 20; value += 0.5) {
      expect(stitches(value) > 0 && gape(value) > 0).toBe(false);
      expect(stitches(value)).toBeLessThanOrEqual(6);
      expect(gape(value)).toBeLessThanOrEqual(1);
    }
    expect([stitches(0.2), stitches(12), gape(-4), gape(-30)]).toEqual([1, 6, 0.5, 1]);
  });
});

describe("formats", () => {
  it("groups thousands and keeps units", () => {
    expect(count(1234567)).toBe("1\u202f234\u202f567");
    expect([counted(1, "record"), counted(2, "delivery", "deliveries")]).toEqual(["1 record", "2 deliveries"]);
  });

  it("writes bits with a true minus and no negative zero", () => {
    expect([bits(7.25), bits(-5), bits(-0.04)]).toEqual(["+7.3", "−5.0", "0.0"]);
  });

  it("names a person from parts", () => {
    expect(nameOf({ "name.given": "Ada", "name.family": "Quayle" })).toBe("Ada Quayle");
  });
});

describe("fields face to face", () => {
  it("leaves out rows that are empty on both sides and keeps the layout's order", () => {
    const fields = [
      { name: "name", label: "Name" },
      { name: "phone", label: "Phone" },
      { name: "email", label: "E-mail" },
    ];
    expect(faceToFace(fields, { email: "a@b.example" }, { name: "Tern" }).map((row) => row.name)).toEqual([
      "name",
      "email",
    ]);
  });

  it("finds the comparison that speaks of a field", () => {
    expect(comparisonOf("address.city", ["name", "address"])).toBe("address");
    expect(comparisonOf("name.legal_form", ["name", "name.legal_form"])).toBe("name.legal_form");
    expect(comparisonOf("updated_on", ["name"])).toBeUndefined();
  });
});

it("never rounds a share to none or all", () => {
  expect([share(0, 10), share(10, 10), share(1, 1000), share(999, 1000), share(1, 3), share(0, 0)]).toEqual([
    "0 %",
    "100 %",
    "<1 %",
    ">99 %",
    "33 %",
    "–",
  ]);
  expect([duration(0.2), duration(45), duration(150)]).toEqual(["1 s", "45 s", "3 min"]);
});

it("shows several values of a field with the labels that tell them apart", () => {
  const fields = { phone: "1", "phone#2": "2", name: "Tern" };
  expect(valuesOf("phone", fields, { "phone#2": "work" })).toBe("1 / work: 2");
  expect(valuesOf("name", fields)).toBe("Tern");
});

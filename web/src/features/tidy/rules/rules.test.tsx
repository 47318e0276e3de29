import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { layout } from "../../../tests/examples";
import { serve, show } from "../../../tests/render";
import { RulesPage } from "./RulesPage";

const BASE = "/api/registers/customers";

describe("quality rules", () => {
  const past = (failing: number) => ({ source: "till", at: "2026-11-01T10:00:00Z", records: 10, failing });
  const rule = {
    key: "phone: required",
    rule: { field: "phone", kind: "required", asked: "" },
    words: "Phone is filled",
    shares: [{ source: "till", records: 10, failing: 4 }],
    history: [past(1), past(4)],
  };
  const quality = {
    version: 4,
    rules: [rule],
    kinds: [
      { name: "required", says: "is filled", asks: "" },
      { name: "shape", says: "has one of the shapes {}", asks: "text" },
    ],
  };
  const open = () => {
    const asked = serve({
      [`GET ${BASE}/quality`]: quality,
      [`PUT ${BASE}/quality`]: { ...quality, rules: [] },
      [`GET ${BASE}/layout`]: layout,
      "GET /api/tables": { tables: [], ready_made: [] },
    });
    show(<RulesPage />, { path: "/r/customers/tidy/rules", pattern: "/r/:slug/tidy/rules" });
    return asked;
  };

  it("say how many records fail per source, lead to them, and show their course", async () => {
    open();
    const failing = await screen.findByRole("link", { name: "4 records of till fail: Phone is filled" });
    expect(failing.getAttribute("href")).toContain("check=rule&wanted=phone%3A+required&source=till");
    expect(screen.getByRole("img", { name: "Failing over time, at most 40 %" })).toBeTruthy();
  });

  it("are added with what they ask for, and removed", async () => {
    const asked = open();
    await userEvent.click(await screen.findByRole("button", { name: /What is expected/ }));
    await userEvent.click(await screen.findByRole("option", { name: /shapes/ }));
    const add = screen.getByRole("button", { name: "Add the rule" });
    expect(add.hasAttribute("disabled")).toBe(true);
    await userEvent.type(screen.getByLabelText("Shapes"), "AA99");
    await userEvent.click(add);
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
        rules: [rule.rule, { field: "name", kind: "shape", asked: "AA99" }],
        seen_version: 4,
      }),
    );
    expect(await screen.findByText("There are no rules yet.")).toBeTruthy();
  });
});

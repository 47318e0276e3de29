import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../../api/client";
import { serve, show } from "../../../tests/render";
import { RunsSide } from "./RunsSide";

const BASE = "/api/registers/customers";
const plan = {
  version: 2,
  plan: { limits: { same: 10, unsure: 3 } },
  keys: [{ expression: "phone.end", words: "phone.end (the whole value)" }],
} as unknown as Schemas["PlanOut"];
const run = {
  id: 1,
  at: "2026-11-01T10:00:00Z",
  purpose: "standing",
  title: "",
  yaml: "",
  report: {
    plan_version: 2,
    records: 2947,
    compared: 83140,
    bands: { same: 2865, unsure: 307, different: 79968, vetoed: 4 },
    pairs_same: 2865,
    pairs_unsure: 307,
    clusters: 1220,
    histogram: { from: -2, counts: [900, 5, 0, 12, 3] },
    keys: [{ key: "phone.end", blocks: 731, largest_block: 17, pairs_proposed: 3016, pairs_first_found: 863 }],
    left_out: [{ key: "name|rarest 2", value: "marine", records: 612 }],
    ignored_decisions: 1,
    seconds: {},
  },
};

function open(runs: unknown[], more: Record<string, unknown> = {}, valid = true) {
  const asked = serve({ [`GET ${BASE}/runs`]: runs, ...more });
  show(<RunsSide slug="customers" plan={plan} yaml="title: tried" valid={valid} />, {
    path: "/r/customers/plan",
    pattern: "/r/:slug/plan",
  });
  return asked;
}

describe("what runs found", () => {
  it("is shown per key, with what was left out", async () => {
    open([run]);
    expect(await screen.findByText("83 140")).toBeTruthy();
    expect(screen.getByText("863")).toBeTruthy();
    expect(screen.getByText(/name\|rarest 2 = marine \(612 records\)/)).toBeTruthy();
    expect(screen.getByText("1 decision contradict others and could not be followed.")).toBeTruthy();
    // Bins without pairs are not drawn; the others tell their figures.
    expect([...document.querySelectorAll("rect title")].map((title) => title.textContent)).toEqual([
      "-2 to -1 bits: 900 pairs",
      "-1 to 0 bits: 5 pairs",
      "1 to 2 bits: 12 pairs",
      "2 to 3 bits: 3 pairs",
    ]);
  });

  it("is told for every pass with counts that lead to their records; trials can be cleared away", async () => {
    const of = (title: string, same: number) => ({
      title,
      counts: { in: 90, same, several: 2, unsure: 3, left: 5 },
      histogram: run.report.histogram,
      keys: [{ ...run.report.keys[0], key: `${title}|whole` }],
      left_out: [],
    });
    const passes = [of("strict", 80), of("loose", 0)];
    const trial = { ...run, id: 7, purpose: "trial", title: "two passes", report: { ...run.report, passes } };
    const asked = open([trial, run], { [`DELETE ${BASE}/runs/7`]: null });
    await userEvent.click(await screen.findByRole("button", { name: /Run: The standing run/ }));
    await userEvent.click(await screen.findByRole("option", { name: /Trial two passes/ }));
    const link = await screen.findByRole("link", { name: "80" });
    expect(link.getAttribute("href")).toBe("/r/customers/tidy?run=7&pass=1&outcome=same");
    expect(screen.getByText("strict|whole")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "2. loose" }));
    expect(screen.getByText("loose|whole")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Clear this trial away" }));
    await waitFor(() => expect(asked.some(({ method }) => method === "DELETE")).toBe(true));
  });

  it("is kept as a trial under a title, of the plan on the bench", async () => {
    const asked = open([run], { [`POST ${BASE}/trials`]: { id: 3, status: "waiting" } });
    await userEvent.type(await screen.findByRole("textbox", { name: "Title of the trial" }), "looser{Enter}");
    await waitFor(() =>
      expect(asked.find(({ path }) => path === `${BASE}/trials`)?.body).toEqual({
        title: "looser",
        yaml: "title: tried",
      }),
    );
    await waitFor(() =>
      expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Title of the trial" }).value).toBe(""),
    );
  });

  it("is no trial of a plan that has problems", async () => {
    open([run], {}, false);
    const button = await screen.findByRole<HTMLButtonElement>("button", { name: /as a trial/ });
    expect(button.disabled).toBe(true);
  });

  it("is nothing as long as nothing was matched", async () => {
    open([]);
    expect(await screen.findByText("Nothing was matched yet.")).toBeTruthy();
  });
});

import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { register } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { PlanPage } from "./index";

const BASE = "/api/registers/customers";
const plan = {
  version: 2,
  yaml: "title: Organisations\n",
  plan: { limits: { same: 10, unsure: 3 } },
  keys: [{ expression: "phone.end", words: "phone.end (the whole value)" }],
  versions: [{ version: 2, actor: "ann", note: "stricter", at: "2026-11-01T10:00:00Z" }],
};
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

function open(more: Record<string, unknown> = {}) {
  const asked = serve({
    "GET /api/registers": [register],
    [`GET ${BASE}/plan`]: plan,
    [`GET ${BASE}/runs`]: [run],
    ...more,
  });
  show(<PlanPage />, { path: "/r/customers/plan", pattern: "/r/:slug/plan" });
  return asked;
}

describe("the plan bench", () => {
  it("shows what the run found, per key, and what was left out", async () => {
    const { container } = { container: document.body };
    open();
    expect(await screen.findByText("83 140")).toBeTruthy();
    expect(screen.getByText("863")).toBeTruthy();
    expect(screen.getByText(/name\|rarest 2 = marine \(612 records\)/)).toBeTruthy();
    expect(screen.getByText("1 decision contradict others and could not be followed.")).toBeTruthy();
    // Bins without pairs are not drawn; the others tell their figures.
    expect([...container.querySelectorAll("rect title")].map((title) => title.textContent)).toEqual([
      "-2 to -1 bits: 900 pairs",
      "-1 to 0 bits: 5 pairs",
      "1 to 2 bits: 12 pairs",
      "2 to 3 bits: 3 pairs",
    ]);
  });

  it("tells every pass with its counts, which lead to their records, and tries a plan beside the standing run", async () => {
    const of = (title: string, same: number) => ({
      title,
      counts: { in: 90, same, several: 2, unsure: 3, left: 5 },
      histogram: run.report.histogram,
      keys: [{ ...run.report.keys[0], key: `${title}|whole` }],
      left_out: [],
    });
    const passes = [of("strict", 80), of("loose", 0)];
    const trial = { ...run, id: 7, purpose: "trial", title: "two passes", report: { ...run.report, passes } };
    const asked = open({
      [`GET ${BASE}/runs`]: [trial, run],
      [`POST ${BASE}/trials`]: {},
      [`DELETE ${BASE}/runs/7`]: null,
    });
    await userEvent.click(await screen.findByRole("button", { name: /Run: The standing run/ }));
    await userEvent.click(await screen.findByRole("option", { name: /Trial two passes/ }));
    const link = await screen.findByRole("link", { name: "80" });
    expect(link.getAttribute("href")).toBe("/r/customers/tidy?run=7&pass=1&outcome=same");
    expect(screen.getByText("strict|whole")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "2. loose" }));
    expect(screen.getByText("loose|whole")).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Match plan as YAML"), "x: 1");
    await userEvent.click(screen.getByRole("button", { name: "Try it" }));
    await waitFor(() => expect(asked.find(({ path }) => path === `${BASE}/trials`)?.body).toMatchObject({ title: "" }));
    await userEvent.click(screen.getByRole("button", { name: "Clear this trial away" }));
    await waitFor(() => expect(asked.some(({ method }) => method === "DELETE")).toBe(true));
  });

  it("estimates the pairs of the plan as it stands in the editor", async () => {
    const asked = open({
      [`POST ${BASE}/plan/estimate`]: {
        records: 2947,
        sampled: 2000,
        keys: [{ key: "email", pairs: 1200, largest_block: 9 }],
      },
    });
    await userEvent.type(await screen.findByLabelText("Match plan as YAML"), "x: 1");
    await userEvent.click(screen.getByRole("button", { name: "Estimate pairs" }));
    expect(await screen.findByText(/About 1 200 pairs among 2 947 records.*told from 2 000 records/)).toBeTruthy();
    expect(asked.find((call) => call.method === "POST")?.body).toEqual({ yaml: "title: Organisations\nx: 1" });
  });

  it("saves a change as a new version, with the version it was made from", async () => {
    const asked = open({ [`PUT ${BASE}/plan`]: { ...plan, version: 3 } });
    const editor = await screen.findByLabelText("Match plan as YAML");
    expect(screen.queryByRole("button", { name: "Save as version 3" })).toBeNull();
    await userEvent.type(editor, "x: 1");
    await userEvent.type(screen.getByLabelText("What changes and why"), "try");
    await userEvent.click(screen.getByRole("button", { name: "Save as version 3" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
        yaml: "title: Organisations\nx: 1",
        note: "try",
        seen_version: 2,
      }),
    );
  });

  it("keeps what was typed when the plan is refused", async () => {
    open({ [`PUT ${BASE}/plan`]: 422 });
    const editor = (await screen.findByLabelText("Match plan as YAML")) as HTMLTextAreaElement;
    await userEvent.type(editor, "oops");
    await userEvent.click(screen.getByRole("button", { name: "Save as version 3" }));
    expect((await screen.findByRole("alert")).textContent).toContain("problem 422");
    expect(editor.value).toContain("oops");
    await userEvent.click(screen.getByRole("button", { name: "Back to version 2" }));
    expect(editor.value).toBe(plan.yaml);
  });

  it("says why a run is due, and starts one", async () => {
    const asked = open({
      "GET /api/registers": [{ ...register, run_due: ["the plan changed since the last run"] }],
      [`GET ${BASE}/runs`]: [],
      [`POST ${BASE}/runs`]: {},
    });
    expect(await screen.findByText("A run is due: the plan changed since the last run.")).toBeTruthy();
    expect(await screen.findByText("Nothing was matched yet.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Run the match" }));
    await waitFor(() =>
      expect(asked.some(({ method, path }) => method === "POST" && path === `${BASE}/runs`)).toBe(true),
    );
  });
});

import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { job, layout } from "../../../tests/examples";
import { type Asked, serve, show } from "../../../tests/render";
import { StepsPage } from "./StepsPage";

const BASE = "/api/registers/customers";

const parameter = (name: string, ask: string, usual = "", choices: string[] = []) => ({
  name,
  label: name,
  ask,
  choices,
  default: usual,
});
const tidySteps = {
  version: 2,
  steps: { name: [{ do: "spaces" }] },
  kinds: [
    { name: "spaces", says: "Single blanks", parameters: [] },
    { name: "keep", says: "Keep only what fits", parameters: [parameter("pattern", "text")] },
    { name: "swap words", says: "Swap by a table", parameters: [parameter("table", "table")] },
  ],
  tables: ["lands"],
  actor: "ann",
  at: "2026-11-01T10:00:00Z",
};
const tried = {
  records: 10,
  complete: true,
  changed: 3,
  changed_by_step: [3],
  values: [{ records: 3, before: "Depot 12,  Oban", after: ["Depot 12, Oban"] }],
  stopped: [],
};

describe("the steps of a field", () => {
  const open = (more: Record<string, unknown> = {}) => {
    const asked = serve({
      [`GET ${BASE}/tidy/steps`]: tidySteps,
      [`GET ${BASE}/layout`]: layout,
      [`POST ${BASE}/tidy/try`]: tried,
      [`PUT ${BASE}/tidy/steps`]: job(),
      ...more,
    });
    show(<StepsPage />, { path: "/r/customers/tidy/steps?field=name", pattern: "/r/:slug/tidy/steps" });
    return asked;
  };
  const add = async (says: string) => {
    await userEvent.click(await screen.findByRole("button", { name: /Add a step/ }));
    await userEvent.click(await screen.findByRole("option", { name: says }));
  };

  it("show what each changes and the values before and after", async () => {
    open();
    expect(await screen.findByText("changes 3 records")).toBeTruthy();
    expect(screen.getByText("3 of 10 records change")).toBeTruthy();
    expect(screen.getAllByText("Depot 12, Oban")).toHaveLength(2);
    expect(screen.getByRole("button", { name: "Save and tidy again" }).hasAttribute("disabled")).toBe(true);
  });

  it("are added, ordered and saved with the version they were made from", async () => {
    const asked = open();
    await add("Swap by a table");
    await userEvent.click(screen.getByRole("button", { name: "Move step 2 up" }));
    await userEvent.click(screen.getByRole("button", { name: "Save and tidy again" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
        steps: { name: [{ do: "swap words", table: "lands" }, { do: "spaces" }] },
        seen_version: 2,
      }),
    );
  });

  it("take a pattern built from what was marked in real values", async () => {
    // While the pattern is missing, the steps cannot be tried as a whole: the examples come from those before it.
    const try_ = ({ body }: Asked) => (JSON.stringify(body).includes('"pattern":""') ? 400 : tried);
    const asked = open({ "POST /api/tidy/pattern": { pattern: "\\d{2}" }, [`POST ${BASE}/tidy/try`]: try_ });
    await add("Keep only what fits");
    await userEvent.click(screen.getByRole("button", { name: /From marked examples/ }));
    const example = within(await screen.findByRole("dialog")).getByRole<HTMLInputElement>("textbox", {
      name: "Example 1",
    });
    example.focus();
    example.setSelectionRange(6, 8);
    example.dispatchEvent(new Event("select", { bubbles: true }));
    await userEvent.click(await screen.findByRole("button", { name: "Build the pattern" }));
    await userEvent.click(await screen.findByRole("button", { name: "Use it" }));
    expect(asked.find(({ path }) => path === "/api/tidy/pattern")?.body).toEqual({
      examples: [{ text: "Depot 12, Oban", start: 6, end: 8 }],
    });
    expect(screen.getByRole<HTMLInputElement>("textbox", { name: "pattern of step 2" }).value).toBe("\\d{2}");
  });

  it("say which verdicts they would change once that is counted", async () => {
    const pair = {
      left_id: 1,
      right_id: 2,
      left: { name: "Tern" },
      right: { name: "ZZ Tern" },
      was: "unsure",
      becomes: "same",
    };
    const result = {
      records: 10,
      clusters_before: 9,
      clusters_after: 8,
      changes: [{ was: "unsure", becomes: "same", pairs: 1 }],
      sample: [pair],
    };
    const asked = open({
      [`POST ${BASE}/tidy/recount`]: job({ id: 7, kind: "recount" }),
      "GET /api/jobs": { jobs: [job({ id: 7, kind: "recount", status: "done", result })] },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Remove step 1" }));
    await userEvent.click(screen.getByRole("button", { name: "Which verdicts would change?" }));
    expect(await screen.findByText("ZZ Tern")).toBeTruthy();
    expect(screen.getByRole("link", { name: "unsure → same" }).getAttribute("href")).toBe("/r/customers/review/1/2");
    expect(asked.find(({ path }) => path.endsWith("/recount"))?.body).toEqual({ steps: {} });
  });

  it("say what is wrong with them and cannot be saved then", async () => {
    open({ [`POST ${BASE}/tidy/try`]: 400 });
    await add("Keep only what fits");
    expect((await screen.findByRole("alert")).textContent).toContain("problem 400");
    expect(screen.getByRole("button", { name: "Save and tidy again" }).hasAttribute("disabled")).toBe(true);
  });
});

import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { serve, show } from "../../tests/render";
import { UnattendedPage } from "./index";

const BASE = "/api/registers/customers";
const stops = { least_rows: 0.5, most_aside: 0.1, rule_fall: 0.05, most_golden: 0.2 };
const schedule = {
  source: "till",
  times: "30 2 * * *",
  says: "At 02:30 every day",
  takes: "folder",
  folder: "incoming/customers/till",
  stops,
  sends: ["golden.csv"],
  on: true,
  next_at: "2026-11-28T02:30:00Z",
  version: 3,
  actor: "ann",
};
const turn = {
  id: 7,
  register_slug: "customers",
  register_name: "Customers",
  source: "till",
  due_at: "2026-11-27T02:30:00Z",
  started_at: "2026-11-27T02:30:01Z",
  ended_at: null,
  state: "held",
  why: "till.csv has 40 rows, usually about 500",
  held_at: "rows",
  delivery_id: 12,
  deliveries: [],
  sent: [],
  missed: 2,
};
const sources = [
  { name: "till", trust_rank: 1, own_duplicates: true, creates: "always", supplies: true, query: null },
  {
    name: "ledger",
    trust_rank: 2,
    own_duplicates: true,
    creates: "always",
    supplies: true,
    query: { address: "", sql: "" },
  },
];

function open(more: Record<string, unknown> = {}) {
  const asked = serve({
    [`GET ${BASE}/sources`]: sources,
    [`GET ${BASE}/schedules`]: [schedule],
    [`GET ${BASE}/turns`]: [
      turn,
      { ...turn, id: 6, state: "done", deliveries: [11], sent: ["golden.csv"], missed: 0, why: "" },
    ],
    ...more,
  });
  show(<UnattendedPage />, { path: "/r/customers/bring-in/unattended", pattern: "/r/:slug/bring-in/unattended" });
  return asked;
}

describe("unattended", () => {
  it("tells when sources deliver, and what ran", async () => {
    open();
    const table = within(await screen.findByRole("region", { name: "Schedules" }));
    expect(await table.findByText("At 02:30 every day")).toBeTruthy();
    expect(table.getByText("by hand")).toBeTruthy();
    const ran = within(screen.getByRole("region", { name: "What ran" }));
    const held = (await ran.findAllByRole("row"))[1];
    expect(held?.textContent).toContain("till.csv has 40 rows, usually about 500");
    expect(held?.textContent).toContain("2 turns before it were missed");
    expect(ran.getByRole("link", { name: "Look at the delivery" }).getAttribute("href")).toBe(
      "/r/customers/bring-in/12",
    );
    expect(ran.getByRole("link", { name: "what came of it" }).getAttribute("href")).toBe(
      "/r/customers/bring-in/11/outcomes",
    );
  });

  it("lets through what is held, or a source deliver now", async () => {
    const asked = open({ "POST /api/turns/7/let-through": null, [`POST ${BASE}/schedules/till/turns`]: null });
    await userEvent.click(await screen.findByRole("button", { name: "Let it through" }));
    await userEvent.click(await screen.findByRole("button", { name: "Let till deliver now" }));
    await waitFor(() => expect(asked.filter(({ method }) => method === "POST")).toHaveLength(2));
  });

  it("sets a schedule up, and tells what is wrong with it without losing it", async () => {
    let refuse = true;
    const asked = open({
      [`PUT ${BASE}/schedules/ledger`]: () =>
        refuse ? { status: 422, detail: "'every night' says no times" } : { ...schedule, source: "ledger" },
    });
    await userEvent.click(await screen.findByRole("button", { name: "When ledger delivers" }));
    const times = await screen.findByLabelText("Times");
    await userEvent.clear(times);
    await userEvent.type(times, "every night");
    const rows = screen.getByLabelText(/fewer than … % of the usual rows/);
    await userEvent.clear(rows);
    expect(screen.getByRole("button", { name: "Deliver by itself" })).toHaveProperty("disabled", true);
    await userEvent.type(rows, "40");
    await userEvent.click(screen.getByLabelText("crosswalk.csv"));
    await userEvent.click(screen.getByRole("button", { name: "Deliver by itself" }));
    expect((await screen.findByRole("alert")).textContent).toContain("says no times");
    expect(screen.getByLabelText("Times")).toHaveProperty("value", "every night");
    refuse = false;
    await userEvent.click(screen.getByRole("button", { name: "Deliver by itself" }));
    await waitFor(() => expect(screen.queryByLabelText("Times")).toBeNull());
    expect(asked.filter(({ method }) => method === "PUT").at(-1)?.body).toEqual({
      times: "every night",
      takes: "query",
      on: true,
      sends: ["crosswalk.csv"],
      stops: { ...stops, least_rows: 0.4 },
      seen_version: 0,
    });
  });
});

import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { register } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { ListPage, ListsPage } from "./index";

const BASE = "/api/registers/customers/counterparts";
const fields = ["name", "address.city", "extra"].map((name) => ({
  name,
  label: name,
  kind: "text",
  group: "",
  register: "",
}));
const list = {
  name: "Fair",
  file_name: "fair.csv",
  columns: ["nr", "visitor", "town", "badge"],
  mapping: [
    { field: "id", column: "nr", constant: "", label: "", continues: 0 },
    { field: "name", column: "visitor", constant: "", label: "", continues: 0 },
  ],
  settings: {
    best: 3,
    keep: [],
    matched_from: null,
    none_below: null,
    margin: 3,
    one_to_one: false,
    further: [],
    yaml: "",
  },
  follows: false,
  counts: { matched: 1, several: 1, unsure: 0, none: 1, rejected: 0 },
  report: {},
  ran_at: "2026-11-01T10:00:00Z",
  stale: true,
  actor: "ann",
  created_at: "2026-11-01T09:00:00Z",
};
const of = (record_id: number, name: string) => ({
  record_id,
  golden_key: `CU-${record_id}`,
  source: "till",
  source_key: `T${record_id}`,
  values: { name },
  gone: false,
});
const candidate = (record_id: number, rank: number, name: string) => ({
  of: of(record_id, name),
  rank,
  score: 12 - rank,
  probability: 0.9,
  reason: "The names are the same.",
  rejected: false,
});
const row = (number: number, name: string, outcome: string, candidates: ReturnType<typeof candidate>[] = []) => ({
  number,
  key: `V${number}`,
  cells: { nr: `V${number}`, visitor: name, badge: "blue" },
  outcome,
  said_by: "",
  note: "",
  counterpart: candidates[0]?.of ?? null,
  candidates,
});
const rows = [
  row(0, "Skua Marine", "matched", [candidate(7, 1, "SKUA MARINE LTD")]),
  row(1, "Tern Ropes", "several", [candidate(8, 1, "Tern Ropes"), candidate(9, 2, "Tern Ropes Depot")]),
  row(2, "Nobody's Glass", "none"),
];

function open(more: Record<string, unknown> = {}, query = ""): Asked[] {
  const asked = serve({
    "GET /api/registers": [register],
    "GET /api/registers/customers/layout": { fields, version: 1 },
    "GET /api/registers/customers/plan": { plan: { comparisons: [{ field: "name" }, { field: "address" }] } },
    [`GET ${BASE}/Fair`]: list,
    [`GET ${BASE}/Fair/rows`]: { rows, before: "", behind: "" },
    [`POST ${BASE}/Fair/rows`]: [],
    [`DELETE ${BASE}/Fair/rows`]: [],
    ...more,
  });
  show(<ListPage />, { path: `/r/customers/counterparts/Fair${query}`, pattern: "/r/:slug/counterparts/:list" });
  return asked;
}

const said = (asked: Asked[]) => asked.filter(({ method, path }) => method !== "GET" && path.includes("/rows"));

describe("a counterpart list", () => {
  beforeEach(() => {
    vi.spyOn(HTMLElement.prototype, "clientHeight", "get").mockReturnValue(600);
    vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(600);
    vi.spyOn(HTMLElement.prototype, "offsetWidth", "get").mockReturnValue(300);
  });

  it("shows a row beside its candidates, and is worked by keys alone", async () => {
    const asked = open();
    expect(await screen.findByText("One record is the counterpart.")).toBeTruthy();
    expect(screen.getByText(/the register changed since/)).toBeTruthy();
    await userEvent.keyboard("{ArrowDown}");
    expect(await screen.findByText("Several records fit about as well: which one is meant?")).toBeTruthy();
    await userEvent.keyboard("2");
    await waitFor(() => expect(said(asked)[0]?.body).toMatchObject({ key: "V1", verdict: "confirmed", record_id: 9 }));
    expect(await screen.findByText("No record of the register fits.")).toBeTruthy();
    await userEvent.keyboard("{ArrowUp}x");
    await waitFor(() => expect(said(asked)[1]?.body).toMatchObject({ key: "V1", verdict: "rejected", record_id: 8 }));
    await userEvent.keyboard("{ArrowUp}0");
    await waitFor(() => expect(said(asked)[2]?.body).toMatchObject({ verdict: "nobody", record_id: null }));
  });

  it("links any record that is found, and takes back what was said", async () => {
    const settled = { ...rows[2], outcome: "matched", said_by: "bob", counterpart: of(5, "Glass & Co") };
    const asked = open({
      [`GET ${BASE}/Fair/rows`]: { rows: [settled], before: "", behind: "" },
      "GET /api/registers/customers/records": {
        records: [
          {
            id: 11,
            source: "till",
            source_key: "T11",
            state: "current",
            delivered: {},
            fields: { name: "Glassworks" },
            tidy: {},
          },
        ],
        total: 1,
        at_least: false,
        before: "",
        behind: "",
      },
    });
    expect(await screen.findByText("linked by hand")).toBeTruthy();
    await userEvent.keyboard("f");
    await userEvent.type(await screen.findByLabelText("Search all records of the register"), "glass");
    await userEvent.click(await screen.findByRole("button", { name: "Link" }));
    await waitFor(() => expect(said(asked)[0]?.body).toMatchObject({ verdict: "confirmed", record_id: 11 }));
    await userEvent.click(screen.getByRole("button", { name: /Take back/ }));
    await waitFor(() => expect(said(asked)[1]).toMatchObject({ method: "DELETE", path: `${BASE}/Fair/rows?key=V2` }));
  });

  it("counts outcomes, filters by them, and lists what only the register holds", async () => {
    const asked = open({
      [`GET ${BASE}/Fair/unmatched-golden`]: {
        rows: [{ key: "CU-3", values: { name: "Alone Ltd" }, records: 2 }],
        before: "",
        behind: "",
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: /several/ }));
    await waitFor(() => expect(asked.some(({ path }) => path.includes("outcome=several"))).toBe(true));
    await userEvent.click(screen.getByRole("button", { name: "in the register only" }));
    expect(await screen.findByText("Alone Ltd")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /all rows/ }));
    await userEvent.click(screen.getByRole("button", { name: /Send out/ }));
    const link = await screen.findByRole("menuitem", { name: "All rows as XLSX" });
    expect(link.getAttribute("href")).toBe(`${BASE}/Fair/table.xlsx`);
  });

  it("sets columns, limits and what is kept, and offers only fields that are not compared anyway", async () => {
    const asked = open({ [`PUT ${BASE}/Fair`]: list }, "?open=settings");
    const dialog = within(await screen.findByRole("dialog"));
    await userEvent.click(dialog.getByRole("button", { name: /Column badge/ }));
    await userEvent.click(await screen.findByRole("option", { name: "extra" }));
    await userEvent.type(dialog.getByLabelText("Matched from, bits"), "7,5");
    const kept = within(dialog.getByRole("group", { name: "Columns of the counterpart that are sent out" }));
    await userEvent.click(kept.getByLabelText("name"));
    const further = within(dialog.getByRole("group", { name: "Further fields to look at where several fit" }));
    expect(further.getAllByRole("checkbox")).toHaveLength(1);
    await userEvent.click(further.getByLabelText("extra"));
    await userEvent.click(dialog.getByRole("button", { name: "Set" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toMatchObject({
        settings: { matched_from: 7.5, keep: ["name"], further: ["extra"] },
        mapping: [{ field: "id" }, { field: "name" }, { field: "extra", column: "badge" }],
      }),
    );
  });

  it("is removed only when that is said twice", async () => {
    const asked = open({ [`DELETE ${BASE}/Fair`]: null }, "?open=settings");
    await userEvent.click(await screen.findByRole("button", { name: "Remove the list…" }));
    expect(asked.some(({ method }) => method === "DELETE")).toBe(false);
    await userEvent.click(screen.getByRole("button", { name: /Yes, remove/ }));
    await waitFor(() =>
      expect(asked.some(({ method, path }) => method === "DELETE" && path === `${BASE}/Fair`)).toBe(true),
    );
  });
});

describe("counterpart lists", () => {
  it("are shown with their counts, and made of a file", async () => {
    serve({
      "GET /api/registers": [register],
      [`GET ${BASE}`]: [list, { ...list, name: "New", counts: null, ran_at: null }],
    });
    show(<ListsPage />, { path: "/r/customers/counterparts", pattern: "/r/:slug/counterparts" });
    const link = await screen.findByRole("link", { name: "Fair" });
    expect(link.getAttribute("href")).toBe("/r/customers/counterparts/Fair");
    expect(screen.getByText("not yet")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Look a file up…" }));
    await userEvent.upload(await screen.findByLabelText(/File/), new File(["a,b"], "guests.csv"));
    expect((screen.getByLabelText("Name of the list") as HTMLInputElement).value).toBe("guests");
    await userEvent.click(screen.getByRole("button", { name: "Take this file" }));
    // The server here knows no such address: the trouble is told, and nothing typed is lost.
    expect((await screen.findByRole("alert")).textContent).toContain("problem 404");
    expect((screen.getByLabelText("Name of the list") as HTMLInputElement).value).toBe("guests");
  });
});

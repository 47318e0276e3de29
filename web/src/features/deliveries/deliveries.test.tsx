import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { layout } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { BringInPage, MappingPage, RejectedPage } from "./index";

const BASE = "/api/registers/customers";
const delivery = {
  id: 5,
  source: "ledger",
  file_name: "ledger.csv",
  format: "CSV",
  columns: ["No", "Firm"],
  mapping: {},
  status: "draft",
  counts: null,
  created_at: "2026-11-01T10:00:00Z",
  loaded_at: null,
};
const loaded = {
  ...delivery,
  id: 4,
  status: "loaded",
  counts: { rows: 1205, new: 1200, changed: 1, unchanged: 1, gone: 0, rejected: 3 },
};
const preview = {
  delivery,
  remembered: false,
  proposals: [
    { column: "No", target: "id", confidence: 0.65, reason: "the header says so" },
    { column: "Firm", target: "", confidence: 0, reason: "no field fits" },
  ],
  rows: [
    { No: "7", Firm: "Skua" },
    { No: "8", Firm: "Tern" },
  ],
};

describe("bringing in", () => {
  const open = (more: Record<string, unknown> = {}) => {
    const asked = serve({
      [`GET ${BASE}/deliveries`]: [delivery, loaded],
      [`GET ${BASE}/sources`]: [
        { name: "ledger", trust_rank: 1, own_duplicates: false },
        { name: "till", trust_rank: 2, own_duplicates: true },
      ],
      ...more,
    });
    return { asked, ...show(<BringInPage />, { path: "/r/customers/bring-in", pattern: "/r/:slug/bring-in" }) };
  };

  it("lists deliveries with counts; drafts and rejected rows are links", async () => {
    open();
    expect((await screen.findByRole("link", { name: /check and load/ })).getAttribute("href")).toBe(
      "/r/customers/bring-in/5",
    );
    expect(screen.getByRole("link", { name: "3" }).getAttribute("href")).toBe("/r/customers/bring-in/4/rejected");
    expect(screen.getByText("1 205")).toBeTruthy();
  });

  it("opens the mapping of a single dropped file, sent as the body itself", async () => {
    const sent = vi.fn();
    const { router } = open();
    await screen.findByText("Drop files here");
    vi.stubGlobal("fetch", async (path: string, init: RequestInit) => {
      sent(path, init.body);
      return Response.json(preview, { status: 201 });
    });
    const file = new File(["No;Firm\n7;Skua\n"], "ledger.csv");
    fireEvent.drop(screen.getByTestId("drop-zone"), { dataTransfer: { files: [file] } });
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/bring-in/5"));
    expect(sent).toHaveBeenCalledWith(`${BASE}/deliveries?file_name=ledger.csv`, file);
  });

  it("moves a source up in trust, and notes its promise", async () => {
    const { asked } = open({ [`PATCH ${BASE}/sources/till`]: [], [`PATCH ${BASE}/sources/ledger`]: [] });
    await userEvent.click(await screen.findByRole("button", { name: "Trust till more" }));
    await userEvent.click(screen.getAllByRole("checkbox")[0] as HTMLElement);
    await waitFor(() =>
      expect(asked.filter(({ method }) => method === "PATCH").map(({ body }) => body)).toEqual([
        { trust_rank: 1 },
        { own_duplicates: true },
      ]),
    );
    expect(screen.getByRole("button", { name: "Trust ledger more" }).hasAttribute("disabled")).toBe(true);
  });
});

describe("the mapping of a draft", () => {
  const open = (more: Record<string, unknown> = {}) => {
    const asked = serve({
      "GET /api/deliveries/5": preview,
      [`GET ${BASE}/layout`]: layout,
      "POST /api/deliveries/5/try": {
        rows: [{ record_id: "7", fields: { name: "Skua & Co" }, tidy: { name: "skua" } }],
        rejected: [{ row_number: 3, column_name: "No", value: "", reason: "the id is missing" }],
      },
      [`POST ${BASE}/deliveries/5/load`]: { id: 1 },
      ...more,
    });
    return {
      asked,
      ...show(<MappingPage />, { path: "/r/customers/bring-in/5", pattern: "/r/:slug/bring-in/:deliveryId" }),
    };
  };

  it("shows proposals with reasons and the first rows before and after", async () => {
    open();
    expect(await screen.findByText("65 %: the header says so")).toBeTruthy();
    expect(await screen.findByText("Skua & Co")).toBeTruthy();
    expect(screen.getByText("skua")).toBeTruthy();
    expect(screen.getByText(/row 3 \(the id is missing\)/)).toBeTruthy();
  });

  it("loads with the mapping as the person changed it", async () => {
    const { asked, router } = open();
    await userEvent.click(await screen.findByRole("button", { name: /Field of Firm/ }));
    await userEvent.click(await screen.findByRole("option", { name: /^Name/ }));
    expect(screen.getByText("chosen by you")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Load this delivery" }));
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/bring-in"));
    expect(asked.find(({ path }) => path.endsWith("/load"))?.body).toEqual({ mapping: { No: "id", Firm: "name" } });
  });

  it("cannot be loaded while the mapping is wrong, and says why", async () => {
    open({ "POST /api/deliveries/5/try": 422 });
    expect((await screen.findByRole("alert")).textContent).toContain("problem 422");
    expect(screen.getByRole("button", { name: "Load this delivery" }).hasAttribute("disabled")).toBe(true);
  });

  it("does not offer to load a second time", async () => {
    open({ "GET /api/deliveries/5": { ...preview, delivery: { ...delivery, status: "loaded" } } });
    expect(await screen.findByText("ledger.csv is loaded already.")).toBeTruthy();
  });
});

it("lists rows that were set aside with row, column and reason", async () => {
  serve({
    "GET /api/deliveries/4": { ...preview, delivery: loaded },
    "GET /api/deliveries/4/rejected": [
      { row_number: 21, column_name: "", value: "7;Skua", reason: "the row has 2 cells" },
    ],
  });
  show(<RejectedPage />, {
    path: "/r/customers/bring-in/4/rejected",
    pattern: "/r/:slug/bring-in/:deliveryId/rejected",
  });
  expect(await screen.findByText("the row has 2 cells")).toBeTruthy();
  expect(screen.getByText("whole row")).toBeTruthy();
  expect(screen.getByRole("link", { name: "Download as CSV" }).getAttribute("href")).toBe(
    "/api/deliveries/4/rejected.csv",
  );
});

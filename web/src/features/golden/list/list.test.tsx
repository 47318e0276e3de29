import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { golden, layout, register } from "../../../tests/examples";
import { type Asked, serve, show } from "../../../tests/render";
import { GoldenListPage } from "./GoldenListPage";
import { filtersOf, NOTHING, orderOf, readQuery, asked as wanted, writeQuery } from "./query";

const BASE = "/api/registers/customers";
const line = {
  key: "CU-00001",
  values: golden.values,
  records: 2,
  pinned: ["phone"],
  contradictions: ["address.city"],
  filled: 2,
  updated_at: golden.updated_at,
};
const found = { total: 1, at_least: false, by_sound: false, contradictory: 3, before: "", behind: "", golden: [line] };

function open(path = "/r/customers/golden", more: Record<string, unknown> = {}) {
  const asked = serve({
    [`GET ${BASE}/golden`]: found,
    [`GET ${BASE}/layout`]: layout,
    [`GET ${BASE}/sources`]: [{ name: "till", trust_rank: 1, own_duplicates: true, query: null }],
    [`GET ${BASE}/views`]: [],
    "GET /api/registers": [register],
    ...more,
  });
  return { asked, ...show(<GoldenListPage />, { path, pattern: "/r/:slug/golden" }) };
}

const lists = (asked: Asked[]) => asked.filter(({ path }) => path.startsWith(`${BASE}/golden?`));

describe("the address of the list", () => {
  it("says all of its state and nothing that is as usual", () => {
    const query = {
      ...NOTHING,
      country: "DK",
      pinned: true,
      least_members: 2,
      columns: ["name", "phone"],
      order_field: "phone",
    };
    expect(writeQuery(NOTHING).toString()).toBe("");
    expect(readQuery(writeQuery(query))).toEqual(query);
    expect(wanted(query)).toEqual({ country: "DK", pinned: true, least_members: 2 });
    expect(readQuery(new URLSearchParams("order=nonsense&least_members=-3&changed_since=yesterday"))).toEqual(NOTHING);
  });

  it("tells filters in words, each with what takes it off", () => {
    const query = { ...NOTHING, most_members: 3, empty: "phone" };
    expect(filtersOf(query, { phone: "Phone" })).toEqual([
      { says: "up to 3 records", off: { least_members: 0, most_members: 0 } },
      { says: "Phone empty", off: { empty: "" } },
    ]);
  });
});

describe("the list of golden records", () => {
  it("searches by address, leads to a record and tells contradictions", async () => {
    const { asked, router } = open();
    const link = await screen.findByRole("link", { name: "CU-00001" });
    expect(link.getAttribute("href")).toBe("/r/customers/golden/CU-00001");
    expect(screen.getByText("contradictory").title).toContain("Town");
    await userEvent.type(screen.getByRole("searchbox"), "rope");
    await waitFor(() => expect(router.state.location.search).toContain("search=rope"));
    await waitFor(() => expect(asked.at(-1)?.path).toContain("search=rope"));
    await userEvent.click(screen.getByRole("button", { name: "3 contradictory" }));
    await waitFor(() => expect(lists(asked).at(-1)?.path).toContain("contradictory=true"));
  });

  it("puts what fits a search best first, until another order is chosen", () => {
    expect([orderOf(NOTHING), orderOf({ ...NOTHING, search: "tern" })]).toEqual(["members", "match"]);
    expect(orderOf({ ...NOTHING, search: "tern", order: "changed" })).toBe("changed");
  });

  it("filters, and takes each filter off again", async () => {
    const { asked, router } = open();
    await userEvent.click(await screen.findByRole("button", { name: "Filters" }));
    await userEvent.click(screen.getByRole("button", { name: /^With a record of/ }));
    await userEvent.click(await screen.findByRole("option", { name: "with till" }));
    await waitFor(() => expect(lists(asked).at(-1)?.path).toContain("source=till"));
    await userEvent.click(screen.getByRole("button", { name: "Take off: with a record of till" }));
    await waitFor(() => expect(router.state.location.search).toBe(""));
  });

  it("orders by the head of a column, pressed again the other way round", async () => {
    const { router } = open();
    await userEvent.click(await screen.findByRole("button", { name: "Phone" }));
    await waitFor(() => expect(router.state.location.search).toBe("?order_field=phone"));
    expect(screen.getByRole("columnheader", { name: /Phone/ }).getAttribute("aria-sort")).toBe("ascending");
    await userEvent.click(screen.getByRole("button", { name: /Phone/ }));
    await waitFor(() => expect(router.state.location.search).toContain("turned=1"));
    expect(screen.getByRole("columnheader", { name: /Phone/ }).getAttribute("aria-sort")).toBe("descending");
  });

  it("shows the columns of one's choice and keeps them as a view", async () => {
    const { asked, router } = open("/r/customers/golden", { [`PUT ${BASE}/views/Towns`]: {} });
    await userEvent.click(await screen.findByRole("button", { name: "Columns" }));
    const columns = within(await screen.findByRole("dialog"));
    await userEvent.click(columns.getByRole("button", { name: "Phone: hide" }));
    await userEvent.click(columns.getByRole("button", { name: "Show these" }));
    await waitFor(() =>
      expect(decodeURIComponent(router.state.location.search)).toBe("?columns=name,address.city,records,changed"),
    );
    await userEvent.click(screen.getByRole("button", { name: "Views" }));
    const views = within(await screen.findByRole("dialog"));
    await userEvent.type(views.getByLabelText("Save what is shown now as"), "Towns");
    await userEvent.click(views.getByRole("button", { name: "Save" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toMatchObject({
        columns: ["name", "address.city", "records", "changed"],
      }),
    );
  });

  it("opens and removes views that were saved", async () => {
    const view = {
      name: "Danes",
      actor: "ann",
      at: "2026-11-01T10:00:00Z",
      content: {
        country: "DK",
        columns: ["name", "email"],
        order: "name",
        order_field: "",
        turned: true,
        changed_since: "2026-10-01T00:00:00Z",
        cursor: "",
        limit: 100,
      },
    };
    const { asked, router } = open("/r/customers/golden", {
      [`GET ${BASE}/views`]: [view],
      [`DELETE ${BASE}/views/Danes`]: null,
    });
    await userEvent.click(await screen.findByRole("button", { name: "Views" }));
    await userEvent.click(await screen.findByRole("button", { name: "Remove the view Danes" }));
    await waitFor(() => expect(asked.some(({ method }) => method === "DELETE")).toBe(true));
    await userEvent.click(await screen.findByRole("link", { name: "Danes" }));
    await waitFor(() =>
      expect(readQuery(new URLSearchParams(router.state.location.search))).toEqual({
        ...NOTHING,
        country: "DK",
        columns: ["name", "email"],
        order: "name",
        turned: true,
        changed_since: "2026-10-01",
      }),
    );
    expect(await screen.findByRole("columnheader", { name: /E-mail|Name/ })).toBeTruthy();
  });

  it("tells when nothing is spelled as searched, and when nothing fits", async () => {
    open("/r/customers/golden?search=skkua", { [`GET ${BASE}/golden`]: { ...found, by_sound: true } });
    expect(await screen.findByText(/None is spelled like that/)).toBeTruthy();
  });

  it("has nothing to copy where no golden record fits, and says so", async () => {
    open("/r/customers/golden?country=XX&least_members=2&pinned=1", {
      [`GET ${BASE}/golden`]: { ...found, total: 0, contradictory: 0, golden: [] },
    });
    expect(await screen.findByText("No golden record fits.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Copy" }).hasAttribute("disabled")).toBe(true);
    expect(screen.getByRole("button", { name: "Take off: 2 records or more" })).toBeTruthy();
    expect(screen.getByRole("button", { name: "Take off: with a pinned value" })).toBeTruthy();
  });

  it("moves columns by keys and goes back to the usual ones", async () => {
    const { router } = open("/r/customers/golden?columns=name,phone");
    await userEvent.click(await screen.findByRole("button", { name: "Columns" }));
    let dialog = within(await screen.findByRole("dialog"));
    dialog.getByRole("button", { name: "Phone: further up" }).focus();
    await userEvent.keyboard("{Enter}");
    await userEvent.click(dialog.getByRole("button", { name: "Filled" }));
    await userEvent.click(dialog.getByRole("button", { name: "Show these" }));
    await waitFor(() => expect(decodeURIComponent(router.state.location.search)).toBe("?columns=phone,name,filled"));
    await userEvent.click(screen.getByRole("button", { name: "Columns" }));
    dialog = within(await screen.findByRole("dialog"));
    await userEvent.click(dialog.getByRole("button", { name: "The usual columns" }));
    await waitFor(() => expect(router.state.location.search).toBe(""));
  });

  it("copies what it shows as CSV, cells with commas in quotes", async () => {
    const writeText = vi.fn(async () => {});
    const values = { ...golden.values, name: '=Skua, "Ropes"' };
    open("/r/customers/golden", { [`GET ${BASE}/golden`]: { ...found, golden: [{ ...line, values }] } });
    Object.defineProperty(navigator, "clipboard", { value: { writeText }, configurable: true });
    await screen.findByRole("link", { name: "CU-00001" });
    await userEvent.click(screen.getByRole("button", { name: "Copy" }));
    await waitFor(() => expect(writeText).toHaveBeenCalled());
    const [[text]] = writeText.mock.calls as unknown as [[string]];
    expect(text.split("\r\n")).toEqual([
      "Key,Name,Town,Phone,Records,Changed",
      `CU-00001,"'=Skua, ""Ropes""",,01632 960999,2,2026-11-01`,
    ]);
  });
});

import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { serve, show } from "../../tests/render";
import { EnterPage } from "./index";

const BASE = "/api/registers/customers";
const fields = [
  { name: "name", label: "Name", kind: "organisation name" },
  { name: "phone", label: "Phone", kind: "phone" },
  { name: "address.city", label: "Town", kind: "city" },
];
const candidate = {
  golden_key: "CU-00483",
  records: 6,
  score: 12.1,
  probability: 0.96,
  verdict: "same",
  reason: "The phone is the same.",
  values: { name: "Schooner Charts Ltd", phone: "+441632960946", "address.city": "Great Yarmouth" },
  has: { "address.city": "Great Yarmouth", phone: "+441632960946" },
  lacks: {},
  differs: { name: { asked: "schooner", there: "Schooner Charts Ltd" } },
};
const told = { check_id: 1, says: "the same phone", forbids: false, golden_keys: ["CU-00483"] };
const entered = { id: 1, act: "create", golden_key: "", source: "entered here", source_key: "E00001" };

function open(more: Record<string, unknown> = {}) {
  const asked = serve({
    [`GET ${BASE}/layout`]: { fields, version: 1 },
    [`GET ${BASE}/checks`]: [],
    [`GET ${BASE}/reference`]: { reference: null },
    [`GET ${BASE}/golden`]: { golden: [], total: 0 },
    [`POST ${BASE}/entries/look`]: { candidates: [], told: [] },
    [`POST ${BASE}/entries`]: entered,
    [`GET ${BASE}/entries/1`]: { ...entered, golden_key: "CU-01192" },
    ...more,
  });
  show(<EnterPage />, { path: "/r/customers/enter", pattern: "/r/:slug/enter" });
  return { asked, user: userEvent.setup() };
}

const saved = (asked: { method: string; path: string; body: unknown }[]) =>
  asked.find(({ method, path }) => method === "POST" && path === `${BASE}/entries`)?.body;

describe("search, then create", () => {
  it("creates at once where nobody is like that, and shows what it became", async () => {
    const { asked, user } = open();
    expect(await screen.findByText("Nothing is typed yet.")).toBeTruthy();
    await user.type(await screen.findByLabelText("Name"), "Wombat");
    expect(await screen.findByText("Nobody there is like that.")).toBeTruthy();
    await user.click(await screen.findByRole("button", { name: "Create" }));
    expect(await screen.findByRole("link", { name: "CU-01192" })).toBeTruthy();
    expect(saved(asked)).toMatchObject({ act: "create", values: { name: "Wombat" }, reason: "", taken: {} });
    await user.click(screen.getByRole("button", { name: "Enter another" }));
    expect(await screen.findByLabelText("Name")).toHaveProperty("value", "");
  });

  it("lets one that is there be used, and asks why another one is created all the same", async () => {
    const { asked, user } = open({ [`POST ${BASE}/entries/look`]: { candidates: [candidate], told: [told] } });
    await user.type(await screen.findByLabelText("Name"), "schooner");
    const card = within(await screen.findByRole("article", { name: "CU-00483" }));
    expect(card.getByText("the same, 96 %")).toBeTruthy();
    expect(card.getByText("you typed schooner")).toBeTruthy();
    expect(card.getAllByRole("rowheader").map(({ textContent }) => textContent)).toEqual(["Name", "Phone", "Town"]);
    expect(screen.getByText(/the same phone is there with/)).toBeTruthy();
    const create = screen.getByRole("button", { name: "Create all the same" });
    expect(create).toHaveProperty("disabled", true);
    await user.type(screen.getByLabelText("Why it is another one"), "a branch");
    await waitFor(() => expect(create).toHaveProperty("disabled", false));
    await user.click(card.getByRole("button", { name: "Add to this one" }));
    await waitFor(() => expect(saved(asked)).toMatchObject({ act: "add", golden_key: "CU-00483" }));
  });

  it("does not offer another one where a check forbids it", async () => {
    const { user } = open({
      [`POST ${BASE}/entries/look`]: { candidates: [candidate], told: [{ ...told, forbids: true }] },
    });
    await user.type(await screen.findByLabelText("Phone"), "01632 960946");
    expect(await screen.findByText(/A check forbids another one/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: /^Create/ })).toBeNull();
  });

  it("keeps what was typed when it is refused", async () => {
    const { user } = open({ [`POST ${BASE}/entries`]: { status: 422, detail: "Somebody was quicker." } });
    await user.type(await screen.findByLabelText("Name"), "Wombat");
    await user.click(await screen.findByRole("button", { name: "Create" }));
    expect(await screen.findByText("Somebody was quicker.")).toBeTruthy();
    expect(screen.getByLabelText("Name")).toHaveProperty("value", "Wombat");
  });

  it("fills in from the trusted reference, and tells what is from where", async () => {
    const one = {
      number: "07000345",
      name: "Wombat Locks Ltd",
      status: "active",
      values: { "address.city": "Inland" },
    };
    const { asked, user } = open({
      [`GET ${BASE}/reference`]: { reference: { name: "Business register", address: "http://x" } },
      [`GET ${BASE}/reference/ask`]: [one],
    });
    await user.type(await screen.findByLabelText("Name"), "Wombat");
    await user.click(await screen.findByRole("button", { name: "Ask" }));
    await user.click(await screen.findByRole("button", { name: "Fill in from Wombat Locks Ltd, 07000345" }));
    expect(screen.getByLabelText("Town")).toHaveProperty("value", "Inland");
    expect(screen.getByText("from Business register 07000345")).toBeTruthy();
    const create = await screen.findByRole("button", { name: "Create" });
    await waitFor(() => expect(create).toHaveProperty("disabled", false));
    await user.click(create);
    await waitFor(() =>
      expect(saved(asked)).toMatchObject({ taken: { "address.city": "Business register 07000345" } }),
    );
  });
});

describe("checks", () => {
  it("are tried on real records before they are put in force", async () => {
    const example = { source: "w", source_key: "1", there_source: "t", there_source_key: "2" };
    const { asked, user } = open({
      [`POST ${BASE}/checks/try`]: { records: 300, told: 14, examples: [example] },
      [`POST ${BASE}/checks`]: {},
    });
    await user.click(await screen.findByRole("button", { name: "Checks…" }));
    expect(await screen.findByText("No check is in force yet.")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Try it" }));
    expect(await screen.findByText("14 times")).toBeTruthy();
    expect(screen.getByText("w 1 beside t 2")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "And…" }));
    await user.click(screen.getByRole("button", { name: "Let it forbid" }));
    await waitFor(() =>
      expect(asked.find(({ method, path }) => method === "POST" && path === `${BASE}/checks`)?.body).toEqual({
        forbids: true,
        parts: [
          { how: "same", field: "phone", letters: 0 },
          { how: "same", field: "address.city", letters: 0 },
        ],
      }),
    );
  });
});

import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { layout, register } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { SendOutPage } from "./index";
import { addressOf, USUAL } from "./queries";

const BASE = "/api/registers/customers";
const saved = {
  name: "To the ERP",
  content: { ...USUAL, table: "changes", file_format: "jsonl" },
  actor: "ann",
  at: "2026-11-01T10:00:00Z",
  last_at: null,
};

function open(golden = 12) {
  const asked = serve({
    [`GET ${BASE}/layout`]: layout,
    [`GET ${BASE}/sources`]: [{ name: "till", trust_rank: 1, own_duplicates: true, query: null }],
    [`GET ${BASE}/send-outs`]: [saved],
    [`PUT ${BASE}/send-outs/Danes`]: { ...saved, name: "Danes" },
    [`POST ${BASE}/send-outs/To%20the%20ERP/run`]: { address: "/api/x.jsonl" },
    "GET /api/registers": [{ ...register, counts: { ...register.counts, golden } }],
  });
  show(<SendOutPage />, { path: "/r/customers/send-out", pattern: "/r/:slug/send-out" });
  return asked;
}

describe("sending out", () => {
  it("leads where what was chosen is fetched", async () => {
    open();
    const link = await screen.findByRole("link", { name: "Send out now" });
    expect(link.getAttribute("href")).toBe(`${BASE}/send-out/golden.csv`);
    await userEvent.type(screen.getByLabelText("Country"), "DK");
    await userEvent.click(await screen.findByLabelText("Phone"));
    await userEvent.click(screen.getByRole("button", { name: /^Format/ }));
    await userEvent.click(await screen.findByRole("option", { name: "Parquet" }));
    expect(link.getAttribute("href")).toBe(
      `${BASE}/send-out/golden.parquet?columns=golden_key&columns=records&columns=name&columns=address.line&columns=address.city&country=DK`,
    );
    // Another table is asked for anew: it has neither these fields nor this filter.
    await userEvent.click(screen.getByRole("button", { name: /^What/ }));
    await userEvent.click(await screen.findByRole("option", { name: "Keys, retired ones too" }));
    expect(link.getAttribute("href")).toBe(`${BASE}/send-out/keys.parquet`);
  });

  it("filters as the list does, and writes streets and regions by choice", async () => {
    open();
    const link = await screen.findByRole("link", { name: "Send out now" });
    await userEvent.type(screen.getByLabelText("Least records"), "2");
    await userEvent.type(screen.getByLabelText("Changed since"), "2026-11-01");
    await userEvent.click(screen.getByLabelText("contradictory"));
    await userEvent.click(await screen.findByLabelText(/kinds of streets abbreviated/));
    const query = new URLSearchParams(link.getAttribute("href")?.split("?")[1]);
    expect(query.get("changed_since")).toBe(new Date("2026-11-01T00:00").toISOString());
    expect([query.get("least_members"), query.get("contradictory"), query.get("short_streets")]).toEqual([
      "2",
      "true",
      "true",
    ]);
    expect(query.has("region_names")).toBe(false);
    await userEvent.click(screen.getByLabelText("contradictory"));
    expect(link.getAttribute("href")).not.toContain("contradictory");
  });

  it("keeps what was chosen under a name, and runs what was kept", async () => {
    const asked = open();
    await userEvent.type(await screen.findByLabelText("Save it as"), "Danes");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(asked.find(({ method }) => method === "PUT")?.path).toBe(`${BASE}/send-outs/Danes`));
    expect(screen.getByText("changes, JSONL; not run yet")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Run To the ERP" }));
    await waitFor(() => expect(asked.some(({ method }) => method === "POST")).toBe(true));
  });

  it("offers cards for golden records only, and nothing while there are none", async () => {
    expect(addressOf("customers", { ...USUAL, table: "keys" })).toBe(`${BASE}/send-out/keys.csv`);
    open(0);
    expect(await screen.findByText("There is nothing to send yet.")).toBeTruthy();
  });
});

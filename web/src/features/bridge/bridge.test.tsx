import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { register } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { BridgePage } from "./index";

const BASE = "/api/registers/customers";
const row = (record_id: number, state: string, partners: string[] = [], partner_ids: number[] = []) => ({
  record_id,
  source_key: `A${record_id}`,
  fields: { name: `Firm ${record_id}` },
  golden_key: state === "known" ? `CU-${record_id}` : "",
  partners,
  partner_ids,
  partner_names: partners.map((key) => `Name of ${key}`),
  state,
});
const rows = [row(1, "known", ["B7"], [7]), row(2, "proposed", ["B8"], [8]), row(3, "none")];

function open(query = "?one=till&other=webshop"): Asked[] {
  const asked = serve({
    "GET /api/registers": [register],
    [`GET ${BASE}/sources`]: ["till", "webshop", "ledger"].map((name) => ({ name })),
    [`GET ${BASE}/bridge`]: { rows, before: "", behind: "" },
    [`GET ${BASE}/bridge/counts`]: { known: 1, proposed: 1, several: 0, "in doubt": 0, none: 1 },
    [`POST ${BASE}/decisions`]: {},
    [`GET ${BASE}/records`]: {
      records: [
        { id: 9, source: "webshop", source_key: "B9", state: "", delivered: {}, fields: { name: "Firm" }, tidy: {} },
      ],
    },
  });
  show(<BridgePage />, { path: `/r/customers/bridge${query}`, pattern: "/r/:slug/bridge" });
  return asked;
}

const decided = (asked: Asked[]) => asked.filter(({ method }) => method === "POST").map(({ body }) => body);

describe("the bridge", () => {
  it("is worked by keys: a proposed partner is confirmed, refused, and one is found by hand", async () => {
    const asked = open();
    expect(await screen.findByText("CU-1")).toBeTruthy();
    await userEvent.keyboard("{ArrowDown}c");
    await waitFor(() => expect(decided(asked)[0]).toMatchObject({ left_id: 2, right_id: 8, verdict: "same" }));
    await userEvent.keyboard("n");
    await waitFor(() => expect(decided(asked)[1]).toMatchObject({ left_id: 2, right_id: 8, verdict: "different" }));
    await userEvent.keyboard("{ArrowDown}f");
    await userEvent.type(await screen.findByLabelText("Search the records of webshop"), "firm");
    await userEvent.click(await screen.findByRole("button", { name: "The same" }));
    await waitFor(() => expect(decided(asked)[2]).toMatchObject({ left_id: 3, right_id: 9, verdict: "same" }));
    expect(asked.some(({ path }) => path.includes("source=webshop"))).toBe(true);
  });

  it("shows a state, turns round, and goes out as a table", async () => {
    const asked = open("");
    const states = within(await screen.findByRole("navigation", { name: "States" }));
    await userEvent.click(states.getByRole("button", { name: /^none/ }));
    await waitFor(() =>
      expect(asked.some(({ path }) => path.includes("one=till&other=webshop&state=none"))).toBe(true),
    );
    await userEvent.click(screen.getByRole("button", { name: "Look from the other side" }));
    await waitFor(() => expect(asked.some(({ path }) => path.includes("one=webshop&other=till"))).toBe(true));
    await userEvent.click(screen.getByRole("button", { name: /Send out/ }));
    const link = await screen.findByRole("menuitem", { name: "As CSV" });
    expect(link.getAttribute("href")).toBe(`${BASE}/bridge/table.csv?one=webshop&other=till`);
  });
});

import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { serve, show } from "../../../tests/render";
import { ReferencesPage } from "./ReferencesPage";

const BASE = "/api/registers/customers";

it("links a reference that leads nowhere by hand", async () => {
  const candidate = { record_id: 12, source: "till", source_key: "A7", name: "skua ropes" };
  const open = { record_id: 3, source: "webshop", source_key: "w1", value: "Skua", likely: [candidate] };
  const field = {
    field: "firm",
    label: "Firm",
    register_slug: "customers",
    by_id: 5,
    by_name: 2,
    by_hand: 0,
    unresolved: 1,
    listed: [open],
  };
  const asked = serve({
    [`GET ${BASE}/references`]: [field],
    [`PUT ${BASE}/references/firm`]: [{ ...field, by_hand: 1, unresolved: 0, listed: [] }],
  });
  show(<ReferencesPage />, { path: "/r/customers/tidy/references", pattern: "/r/:slug/tidy/references" });
  await userEvent.click(await screen.findByRole("button", { name: /skua ropes/ }));
  expect(await screen.findByText("0 references")).toBeTruthy();
  expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({ record_id: 3, target_id: 12 });
});

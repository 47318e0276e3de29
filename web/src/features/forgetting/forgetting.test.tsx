import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { serve, show } from "../../tests/render";
import { ForgetPage } from ".";

const KEPT = {
  records: [{ id: 7, source: "till", source_key: "Q-7", fields: { "name.given": "Runa", "name.family": "Ness" } }],
  golden_keys: ["BO-00007"],
  places: [{ what: "entries of the journal", count: 3 }],
  files: [
    { what: "delivery of till", name: "till.csv", needed: false },
    { what: "counterpart list Guests", name: "guests.csv", needed: true },
  ],
  told: [{ who: "https://others.example", how: "by events" }],
};
const page = { path: "/r/boat-owners/forget?key=BO-00007", pattern: "/r/:slug/forget" };

it("shows all that is kept of a person, and proposes to erase exactly that, with a reason", async () => {
  const asked = serve({
    "GET /api/registers/boat-owners/forgetting": KEPT,
    "POST /api/registers/boat-owners/forgetting": { id: 1 },
  });
  show(<ForgetPage />, page);
  const records = within(await screen.findByRole("region", { name: /Records, and the golden records BO-00007/ }));
  expect(records.getByText("Runa, Ness")).toBeTruthy();
  const places = within(screen.getByRole("region", { name: "Where their values stand" }));
  expect(places.getAllByRole("cell").map((cell) => cell.textContent)).toEqual([
    "entries of the journal",
    "3",
    "file till.csv, delivery of till",
    "deleted whole",
    "file guests.csv, counterpart list Guests",
    "stays: still needed",
  ]);
  expect(screen.getByText("by events")).toBeTruthy();
  const propose = screen.getByRole("button", { name: "Propose to erase all of this" });
  expect(propose).toHaveProperty("disabled", true);
  await userEvent.type(screen.getByRole("textbox", { name: "Reason" }), "request 11");
  await userEvent.click(propose);
  await waitFor(() =>
    expect(asked.find((call) => call.method === "POST")?.body).toEqual({
      key: "",
      record_ids: [7],
      reason: "request 11",
    }),
  );
});

it("asks whose where nobody is named", async () => {
  serve({});
  show(<ForgetPage />, { ...page, path: "/r/boat-owners/forget" });
  expect(await screen.findByText("Whose?")).toBeTruthy();
});

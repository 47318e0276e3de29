import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { serve, show } from "../../../tests/render";
import { WordingNote } from "./WordingNote";

const habits = [
  { source: "shop", written: "slg", other: "ledger", meant: "sailing", times: 6 },
  { source: "shop", written: "bldrs", other: "ledger", meant: "builders", times: 5 },
  { source: "shop", written: "bldrs", other: "till", meant: "builders", times: 4 },
];
const at = { path: "/r/customers/plan", pattern: "/r/:slug/plan" };

test("habits are told, frequent ones first, and become a swap list", async () => {
  const asked = serve({
    "GET /api/tables": { tables: [], ready_made: [] },
    "POST /api/tables": { name: "words of customers", kind: "swap list", version: 1, entries: 2 },
  });
  const { router } = show(<WordingNote habits={habits} />, at);
  const items = screen.getAllByRole("listitem").map((item) => item.textContent);
  expect(items[0]).toBe("bldrs in shop for builders in ledger, till, 9 times");
  await userEvent.click(screen.getByRole("button", { name: "Put them into a swap list" }));
  await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/tidy/tables/words%20of%20customers"));
  expect(asked.find(({ method }) => method === "POST")?.body).toMatchObject({
    kind: "swap list",
    entries: [
      ["slg", "sailing"],
      ["bldrs", "builders"],
    ],
  });
});

test("a swap list of before takes new words and keeps what a person made of the old ones", async () => {
  const list = { name: "words of customers", kind: "swap list", version: 3 };
  const asked = serve({
    "GET /api/tables": { tables: [list], ready_made: [] },
    "GET /api/tables/words%20of%20customers": { ...list, entries: [["slg", "sail"]], versions: [] },
    "PUT /api/tables/words%20of%20customers": { ...list, version: 4, entries: 2 },
  });
  show(<WordingNote habits={habits} />, at);
  await userEvent.click(screen.getByRole("button", { name: "Put them into a swap list" }));
  await waitFor(() =>
    expect(asked.find(({ method }) => method === "PUT")?.body).toMatchObject({
      entries: [
        ["slg", "sail"],
        ["bldrs", "builders"],
      ],
      seen_version: 3,
    }),
  );
});

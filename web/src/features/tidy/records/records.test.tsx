import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { layout } from "../../../tests/examples";
import { serve, show } from "../../../tests/render";
import { TidyPage } from "./TidyPage";

const BASE = "/api/registers/customers";

it("corrects a value in all records that hold it, and undoes the step", async () => {
  const step = {
    batch: 5,
    field: "phone",
    was: "n/a",
    value: "",
    records: 3,
    actor: "ann",
    at: "2026-11-01T10:00:00Z",
  };
  const asked = serve({
    [`GET ${BASE}/records`]: { total: 0, labels: {}, tidy_fields: [], records: [] },
    [`GET ${BASE}/sources`]: [],
    [`GET ${BASE}/layout`]: layout,
    [`POST ${BASE}/corrections/values`]: [{ value: "n/a", records: 3 }],
    [`GET ${BASE}/corrections`]: [step],
    [`POST ${BASE}/corrections`]: step,
    [`DELETE ${BASE}/corrections/5`]: null,
  });
  show(<TidyPage />, { path: "/r/customers/tidy?field=phone&check=invalid", pattern: "/r/:slug/tidy" });
  await userEvent.click(await screen.findByRole("button", { name: "Correct these values…" }));
  await userEvent.clear(await screen.findByLabelText("Instead of n/a"));
  await userEvent.click(screen.getByRole("button", { name: "Change 3 records" }));
  await waitFor(() =>
    expect(asked.find(({ method, path }) => method === "POST" && path.endsWith("/corrections"))?.body).toEqual({
      field: "phone",
      check: "invalid",
      wanted: "",
      source: "",
      was: "n/a",
      value: "",
    }),
  );
  await userEvent.click(await screen.findByRole("button", { name: "Undo n/a to empty" }));
  await waitFor(() => expect(asked.some(({ method }) => method === "DELETE")).toBe(true));
});

it("shows the field that was asked of first, also where it is empty", async () => {
  const record = {
    id: 1,
    source: "till",
    source_key: "1",
    state: "current",
    fields: { name: "Tern" },
    tidy: { name: "tern" },
    delivered: {},
  };
  serve({
    [`GET ${BASE}/records`]: { total: 1, labels: {}, tidy_fields: [], records: [record], at_least: false },
    [`GET ${BASE}/sources`]: [],
    [`GET ${BASE}/layout`]: layout,
  });
  show(<TidyPage />, { path: "/r/customers/tidy?field=phone&check=empty", pattern: "/r/:slug/tidy" });
  const table = await screen.findByRole("table");
  expect(within(table).getAllByRole("columnheader")[2]?.textContent).toBe("Phone");
  expect(within(table).getAllByRole("columnheader")[3]?.textContent).toBe("Name");
});

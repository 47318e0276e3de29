import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { layout } from "../../../tests/examples";
import { serve, show } from "../../../tests/render";
import { TablesPage } from "./TablesPage";

const BASE = "/api/registers/customers";

describe("swap lists and value maps", () => {
  const lands = {
    name: "lands",
    kind: "value map",
    version: 3,
    entries: [["Norge", "NO"]],
    versions: [{ version: 3, actor: "ann", note: "", at: "2026-11-01T10:00:00Z", entries: 1 }],
  };
  const open = (more: Record<string, unknown> = {}) => {
    const asked = serve({
      "GET /api/tables": {
        tables: [{ ...lands, entries: 1, actor: "ann", at: "2026-11-01T10:00:00Z" }],
        ready_made: ["legal forms"],
      },
      "GET /api/tables/lands": lands,
      "GET /api/tables/lands/usage": {
        touched: { norge: 5 },
        unmapped: [{ value: "Norrge", records: 2, nearest: "NO" }],
        records_unmapped: 2,
      },
      "PUT /api/tables/lands": { ...lands, entries: 2, version: 4 },
      [`GET ${BASE}/layout`]: layout,
      ...more,
    });
    return {
      asked,
      ...show(<TablesPage />, { path: "/r/customers/tidy/tables/lands", pattern: "/r/:slug/tidy/tables/:table" }),
    };
  };

  it("take an unmapped value with the nearest known one, and are saved as a new version", async () => {
    const { asked } = open();
    await userEvent.click(await screen.findByRole("button", { name: "Map Norrge" }));
    expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Becomes, entry 1" }).value).toBe("NO");
    await userEvent.click(screen.getByRole("button", { name: "Save as version 4" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
        entries: [
          ["Norrge", "NO"],
          ["Norge", "NO"],
        ],
        seen_version: 3,
        note: "",
      }),
    );
  });

  it("take the entries of a file in place of those of the same word, to be looked at before saving", async () => {
    open();
    await screen.findByRole("button", { name: "Map Norrge" });
    const input = screen.getByLabelText("File with entries");
    vi.stubGlobal("fetch", async () =>
      Response.json([
        ["norge", "NOR"],
        ["Danmark", "DK"],
      ]),
    );
    await userEvent.upload(input, new File(["x"], "lands.csv"));
    expect((await screen.findByDisplayValue("NOR")).getAttribute("aria-label")).toBe("Becomes, entry 1");
    expect(screen.queryByDisplayValue("NO")).toBeNull();
  });

  it("are made from ready-made ones", async () => {
    const { asked, router } = open({ "POST /api/tables": { ...lands, name: "legal forms" } });
    await userEvent.click(await screen.findByRole("button", { name: "Make a table" }));
    await userEvent.click(await screen.findByRole("button", { name: /Starts from/ }));
    await userEvent.click(await screen.findByRole("option", { name: "legal forms" }));
    await userEvent.click(screen.getByRole("button", { name: "Make it" }));
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/tidy/tables/legal%20forms"));
    expect(asked.find(({ method }) => method === "POST")?.body).toEqual({
      name: "legal forms",
      kind: "swap list",
      ready: "legal forms",
      entries: [],
    });
  });
});

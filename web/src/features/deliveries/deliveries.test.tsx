import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { layout, register } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { BringInPage, MappingPage, OutcomesPage, RejectedPage } from "./index";

const BASE = "/api/registers/customers";
const delivery = {
  id: 5,
  source: "ledger",
  file_name: "ledger.csv",
  format: "CSV",
  columns: ["No", "Firm"],
  mapping: [{ field: "id", column: "No", constant: "", label: "", continues: 0 }],
  delivers: "full",
  gone: "keep",
  status: "draft",
  counts: null,
  outcomes: null as Record<string, number> | null,
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
  format: {
    kind: "xlsx",
    sheet: "Firms",
    sheets: ["Firms", "Notes"],
    header_row: 1,
    path: "",
    paths: [],
    encoding: "",
    encodings: [] as { name: string; label: string }[],
    looks_misread: false,
  },
  remembered: false,
  new_columns: [] as string[],
  missing_columns: [] as string[],
  proposals: [
    { column: "No", target: "id", confidence: 0.65, reason: "the header says so", label: "", continues: 0 },
    { column: "Firm", target: "", confidence: 0, reason: "no field fits", label: "", continues: 0 },
  ],
  rows: [
    { No: "7", Firm: "Skua" },
    { No: "8", Firm: "Tern" },
  ],
};

const assigned = (field: string, column: string) => ({ field, column, constant: "", label: "", continues: 0 });

describe("bringing in", () => {
  const open = (more: Record<string, unknown> = {}) => {
    const asked = serve({
      [`GET ${BASE}/deliveries`]: [delivery, loaded],
      "GET /api/registers": [register],
      [`GET ${BASE}/recognition`]: { on: false, hindrance: "", changed: 0, learned_from: 0, learned_at: null },
      [`GET ${BASE}/sources`]: [
        {
          name: "ledger",
          trust_rank: 1,
          own_duplicates: false,
          creates: "always",
          supplies: true,
          query: { address: "host=db", sql: "SELECT 1" },
        },
        { name: "till", trust_rank: 2, own_duplicates: true, creates: "never", supplies: true, query: null },
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
    const served = fetch;
    vi.stubGlobal("fetch", async (path: string, init: RequestInit) => {
      if (typeof path !== "string" || !path.includes("file_name=")) return served(path, init);
      sent(path, init.body);
      return Response.json(preview, { status: 201 });
    });
    const file = new File(["No;Firm\n7;Skua\n"], "ledger.csv");
    fireEvent.drop(screen.getByTestId("drop-zone"), { dataTransfer: { files: [file] } });
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/bring-in/5"));
    expect(sent).toHaveBeenCalledWith(`${BASE}/deliveries?file_name=ledger.csv`, file);
  });

  it("takes a delivery back after saying what that does, and puts one back", async () => {
    const { asked } = open({
      [`GET ${BASE}/deliveries`]: [loaded, { ...loaded, id: 3, file_name: "old.csv", status: "taken back" }],
      "GET /api/deliveries/4/take-back": { withdrawn: 1200, restored: 1, staying: 0, golden: 7 },
      [`POST ${BASE}/deliveries/4/take-back`]: { id: 1 },
      [`POST ${BASE}/deliveries/3/put-back`]: { id: 2 },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Take ledger.csv back" }));
    expect(await screen.findByText(/1 200 records that only this delivery brought/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Take this delivery back" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    await userEvent.click(screen.getByRole("button", { name: "Put old.csv back" }));
    await waitFor(() => expect(asked.filter(({ method }) => method === "POST")).toHaveLength(2));
  });

  it("tries a query before it can be brought in, and asks it again", async () => {
    let refuse = true;
    const { asked, router } = open({
      "POST /api/queries/try": () => (refuse ? 400 : { columns: ["firm"], rows: [["Skua"]] }),
      [`POST ${BASE}/queries`]: preview,
      [`POST ${BASE}/sources/ledger/query`]: preview,
    });
    await userEvent.click(await screen.findByRole("button", { name: /ask a database/ }));
    await userEvent.type(screen.getByLabelText("Address of a PostgreSQL database"), "postgresql://ann@db/crm");
    await userEvent.type(screen.getByLabelText("Password"), "s3cret");
    await userEvent.type(screen.getByLabelText(/^Query/), "SELECT firm");
    await userEvent.click(screen.getByRole("button", { name: "Try the query" }));
    expect((await screen.findByRole("alert")).textContent).toContain("problem 400");
    refuse = false;
    await userEvent.click(screen.getByRole("button", { name: "Try the query" }));
    expect(await screen.findByRole("cell", { name: "Skua" })).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Name of the source"), "sales tool");
    await userEvent.click(screen.getByRole("button", { name: "Bring its rows in" }));
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/bring-in/5"));
    expect(asked.find(({ path }) => path.endsWith("/queries"))?.body).toEqual({
      address: "postgresql://ann@db/crm",
      password: "s3cret",
      sql: "SELECT firm",
      source: "sales tool",
    });
  });

  it("adds a field to the layout and changes a label", async () => {
    const { asked } = open({ [`GET ${BASE}/layout`]: layout, [`PUT ${BASE}/layout`]: { id: 3 } });
    await userEvent.click(await screen.findByRole("button", { name: /Fields of this register/ }));
    await userEvent.type(await screen.findByLabelText("Label of a new field"), "Fax no.");
    await userEvent.click(screen.getByRole("button", { name: /Kind of the new field/ }));
    await userEvent.click(await screen.findByRole("option", { name: "phone" }));
    await userEvent.click(screen.getByRole("button", { name: "Add field" }));
    await userEvent.type(screen.getByLabelText("Label of name"), " of the firm");
    await userEvent.click(screen.getByRole("button", { name: "Save the layout" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    const sent = asked.find(({ method }) => method === "PUT")?.body;
    const fields = (sent as { fields: { name: string }[] } | undefined)?.fields ?? [];
    expect(fields[0]).toMatchObject({ name: "name", label: "Name of the firm", kind: "organisation name" });
    expect(fields.at(-1)).toEqual({ name: "fax_no", label: "Fax no.", kind: "phone", register_slug: "" });
  });

  it("moves a source up in trust, and notes its promise", async () => {
    const { asked } = open({ [`PATCH ${BASE}/sources/till`]: [], [`PATCH ${BASE}/sources/ledger`]: [] });
    await userEvent.click(await screen.findByRole("button", { name: "Trust till more" }));
    await userEvent.click(screen.getAllByRole("checkbox")[0] as HTMLElement);
    await waitFor(() =>
      expect(asked.filter(({ method }) => method === "PATCH").map(({ body }) => body)).toEqual([
        { trust_rank: 1, seen_version: 4 },
        { own_duplicates: true, seen_version: 4 },
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
    expect(asked.find(({ path }) => path.endsWith("/load"))?.body).toEqual({
      mapping: [assigned("id", "No"), assigned("name", "Firm")],
      delivers: "full",
      gone: "keep",
    });
  });

  it("lets a name that goes on in the next column be kept apart", async () => {
    const { asked } = open({
      "GET /api/deliveries/5": {
        ...preview,
        delivery: { ...delivery, mapping: [assigned("name", "No"), { ...assigned("name", "Firm"), continues: 35 }] },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: /goes on/ }));
    expect(screen.queryByRole("button", { name: /goes on/ })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Load this delivery" }));
    await waitFor(() => expect(asked.some(({ path }) => path.endsWith("/load"))).toBe(true));
    expect(asked.find(({ path }) => path.endsWith("/load"))?.body).toMatchObject({
      mapping: [assigned("name", "No"), assigned("name", "Firm")],
    });
  });

  it("takes labels, further fields of a column, constants, and what the delivery stands for", async () => {
    const { asked } = open();
    const choose = async (button: RegExp, option: RegExp) => {
      await userEvent.click(await screen.findByRole("button", { name: button }));
      await userEvent.click(await screen.findByRole("option", { name: option }));
    };
    await choose(/Field of Firm/, /^Name/);
    await userEvent.click(screen.getByRole("button", { name: "Use Firm for another field too" }));
    await choose(/Field of Firm, number 2/, /^Phone/);
    await userEvent.type(screen.getAllByRole("textbox", { name: "Label of Firm" })[1] as HTMLElement, "work");
    await userEvent.click(screen.getByRole("button", { name: "Add a constant" }));
    await choose(/Field of constant 1/, /^Town/);
    await userEvent.type(screen.getByRole("textbox", { name: "Constant 1" }), "Oban");
    await choose(/Records it lacks/, /ended/);
    await userEvent.click(screen.getByRole("button", { name: "Load this delivery" }));
    await waitFor(() =>
      expect(asked.find(({ path }) => path.endsWith("/load"))?.body).toEqual({
        mapping: [
          assigned("id", "No"),
          assigned("name", "Firm"),
          { ...assigned("phone", "Firm"), label: "work" },
          { ...assigned("address.city", ""), constant: "Oban" },
        ],
        delivers: "full",
        gone: "end",
      }),
    );
  });

  it("reads the file in another way, and tells columns that came and went", async () => {
    const again = { ...preview, delivery: { ...delivery, format: "XLSX, other sheet" }, missing_columns: ["Tel"] };
    const { asked } = open({ "PUT /api/deliveries/5/reading": again });
    await userEvent.click(await screen.findByRole("button", { name: /Sheet: Firms/ }));
    await userEvent.click(await screen.findByRole("option", { name: "Notes" }));
    expect((await screen.findByText(/No longer there: “Tel”/)).textContent).toContain("changed since its last");
    expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
      sheet: "Notes",
      path: "",
      header_row: null,
      encoding: "",
    });
  });

  it("tells letters that look misread, and reads them in the encoding that a person chooses", async () => {
    const format = {
      ...preview.format,
      header_row: 2,
      encoding: "cp1252",
      encodings: [
        { name: "cp1252", label: "Western European (Windows)" },
        { name: "cp850", label: "Western European (DOS)" },
      ],
      looks_misread: true,
    };
    const { asked } = open({
      "GET /api/deliveries/5": { ...preview, format },
      "PUT /api/deliveries/5/reading": preview,
    });
    expect(await screen.findByText(/letters look misread/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /Letters in: Western European \(Windows\)/ }));
    await userEvent.click(await screen.findByRole("option", { name: /\(DOS\)/ }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toMatchObject({ encoding: "cp850", header_row: 2 }),
    );
  });

  it("cannot be loaded while the mapping is wrong, and says why", async () => {
    open({ "POST /api/deliveries/5/try": 422 });
    expect((await screen.findByRole("alert")).textContent).toContain("problem 422");
    expect(screen.getByRole("button", { name: "Load this delivery" }).hasAttribute("disabled")).toBe(true);
  });

  it("tells once what most rows lack, and maps what cures it at a click", async () => {
    const says = "All of the first 60 rows lack a name: “No” is empty there. “Firm” looks like one.";
    const cure = [assigned("name", "Firm")];
    const { asked } = open({
      "POST /api/deliveries/5/try": { rows: [], rejected: [], trouble: { says, cure, cure_says: "Map “Firm”" } },
    });
    expect((await screen.findByRole("alert")).textContent).toContain(says);
    expect(screen.getByRole("button", { name: "Load this delivery" }).hasAttribute("disabled")).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: "Map “Firm”" }));
    await waitFor(() =>
      expect(asked.filter(({ path }) => path.endsWith("/try")).at(-1)?.body).toEqual({ mapping: cure }),
    );
  });

  it("does not offer to load a second time", async () => {
    open({ "GET /api/deliveries/5": { ...preview, delivery: { ...delivery, status: "loaded" } } });
    expect(await screen.findByText("ledger.csv is loaded already.")).toBeTruthy();
  });
});

describe("rows set aside", () => {
  const row = {
    id: 90,
    row_number: 21,
    column_name: "",
    value: "7;Skua",
    reason: "the row has 2 cells",
    cells: { No: "7" },
    mended_at: null,
  };
  const open = (more: Record<string, unknown> = {}) => {
    const asked = serve({
      "GET /api/deliveries/4": { ...preview, delivery: loaded },
      "GET /api/deliveries/4/rejected": {
        total: 2,
        waiting: 1,
        rows: [row, { ...row, id: 91, mended_at: "2026-11-01" }],
      },
      ...more,
    });
    show(<RejectedPage />, {
      path: "/r/customers/bring-in/4/rejected",
      pattern: "/r/:slug/bring-in/:deliveryId/rejected",
    });
    return asked;
  };

  it("are listed with row, column and reason", async () => {
    open();
    expect(await screen.findAllByText("the row has 2 cells")).toHaveLength(2);
    expect(screen.getAllByText("whole row")).toHaveLength(2);
    expect(screen.getByText("brought in")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Download as CSV" }).getAttribute("href")).toBe(
      "/api/deliveries/4/rejected.csv",
    );
  });

  it("are mended in place, and say what is still wrong", async () => {
    let refuse = true;
    const asked = open({ "POST /api/rejected/90/mend": () => (refuse ? 400 : { ...row, mended_at: "2026-11-01" }) });
    await userEvent.click(await screen.findByRole("button", { name: "Mend row 21" }));
    await userEvent.type(screen.getByRole("textbox", { name: "Firm" }), "Skua");
    await userEvent.click(screen.getByRole("button", { name: "Bring this row in" }));
    expect((await screen.findByRole("alert")).textContent).toContain("problem 400");
    refuse = false;
    await userEvent.click(screen.getByRole("button", { name: "Bring this row in" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(asked.find(({ path }) => path.endsWith("/mend"))?.body).toEqual({ cells: { No: "7", Firm: "Skua" } });
  });
});

describe("what a source may do", () => {
  it("is told beside its name, and changed in a dialog", async () => {
    const till = { name: "till", trust_rank: 1, own_duplicates: true, creates: "never", supplies: true, query: null };
    const asked = serve({
      [`GET ${BASE}/deliveries`]: [],
      "GET /api/registers": [register],
      [`GET ${BASE}/sources`]: [till],
      [`GET ${BASE}/recognition`]: { on: false, hindrance: "", changed: 0, learned_from: 0, learned_at: null },
      [`PATCH ${BASE}/sources/till`]: [till],
    });
    show(<BringInPage />, { path: "/r/customers/bring-in", pattern: "/r/:slug/bring-in" });
    expect(await screen.findByText("makes no golden records")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "till" }));
    await userEvent.click(await screen.findByRole("button", { name: /A new record: makes none/ }));
    await userEvent.click(await screen.findByRole("option", { name: /brings new ones only/ }));
    await userEvent.click(screen.getByRole("checkbox", { name: /count in golden records/ }));
    const sent = asked.filter(({ method }) => method === "PATCH").map(({ body }) => body);
    expect(sent).toEqual([
      expect.objectContaining({ creates: "unless known" }),
      expect.objectContaining({ supplies: false }),
    ]);
  });
});

describe("recognition", () => {
  const recognition = {
    on: true,
    hindrance: "",
    changed: 12,
    learned_from: 1205,
    learned_at: "2026-11-01T10:00:00Z",
    only_field: "",
    only_values: [],
    parents: "tell",
    parent_field: "Firm",
  };

  it("tells what becomes of a delivery, and is switched by hand", async () => {
    let on = true;
    const asked = serve({
      [`GET ${BASE}/deliveries`]: [
        { ...loaded, outcomes: { added: 31, recognised: 240, doubtful: 12 } },
        { ...loaded, id: 3, outcomes: {} },
      ],
      "GET /api/registers": [register],
      [`GET ${BASE}/sources`]: [],
      [`GET ${BASE}/recognition`]: () => ({ ...recognition, on }),
      [`PUT ${BASE}/recognition`]: () => {
        on = false;
        return { ...recognition, on };
      },
    });
    show(<BringInPage />, { path: "/r/customers/bring-in", pattern: "/r/:slug/bring-in" });
    expect((await screen.findByText(/By what was learned from/)).textContent).toContain("12 changed since");
    const counts = screen.getAllByRole("link", { name: /recognised|added|doubtful/ });
    expect(counts.map((link) => link.textContent)).toEqual(["recognised 240", "added 31", "doubtful 12"]);
    expect(counts[2]?.getAttribute("href")).toBe("/r/customers/bring-in/4/outcomes?outcome=doubtful");
    expect(screen.getByText("to be recognised")).toBeTruthy();
    await userEvent.click(screen.getByLabelText("Recognise records as they come in"));
    await waitFor(() =>
      expect(asked).toContainEqual(
        expect.objectContaining({ method: "PUT", path: `${BASE}/recognition`, body: { on: false } }),
      ),
    );
    expect(await screen.findByText(/waits until a person/)).toBeTruthy();
  });

  it("asks which golden records may be recognised, and what becomes of who has no parent", async () => {
    const asked = serve({
      [`GET ${BASE}/deliveries`]: [],
      "GET /api/registers": [register],
      [`GET ${BASE}/sources`]: [],
      [`GET ${BASE}/layout`]: layout,
      [`GET ${BASE}/recognition`]: { ...recognition, only_field: "name", only_values: ["Tern"] },
      [`PUT ${BASE}/recognition`]: recognition,
    });
    show(<BringInPage />, { path: "/r/customers/bring-in", pattern: "/r/:slug/bring-in" });
    expect((await screen.findByText(/By what was learned from/)).textContent).toContain(
      "Only golden records with Tern.",
    );
    await userEvent.click(screen.getByRole("button", { name: "What may be recognised…" }));
    const values = await screen.findByLabelText("One of these values");
    await userEvent.type(values, ", Skua");
    await userEvent.click(screen.getByRole("button", { name: /A record without a parent/ }));
    await userEvent.click(await screen.findByRole("option", { name: /put aside/ }));
    await userEvent.click(screen.getByRole("button", { name: "Set" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
        on: true,
        only: { field: "name", values: ["Tern", "Skua"] },
        parents: "aside",
      }),
    );
  });

  it("opens every count: the records, what changed in them, where they went", async () => {
    const row = {
      id: 9,
      source_key: "w9",
      fields: { name: "Tern Boatyard" },
      golden_key: "CU-00012",
      changed: ["phone"],
    };
    serve({
      [`GET ${BASE}/layout`]: layout,
      [`GET ${BASE}/deliveries/4/outcomes`]: {
        source: "webshop",
        file_name: "webshop.csv",
        counts: { unchanged: 14, updated: 1 },
        fields: { phone: 1 },
      },
      [`GET ${BASE}/deliveries/4/outcomes/updated`]: [row],
      [`GET ${BASE}/deliveries/4/outcomes/unchanged`]: [],
    });
    show(<OutcomesPage />, {
      path: "/r/customers/bring-in/4/outcomes?outcome=updated",
      pattern: "/r/:slug/bring-in/:deliveryId/outcomes",
    });
    expect(await screen.findByText("Tern Boatyard")).toBeTruthy();
    expect(screen.getByRole("link", { name: "CU-00012" }).getAttribute("href")).toBe("/r/customers/golden/CU-00012");
    expect(screen.getByText(/changed: phone in 1/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /^unchanged/ }));
    expect(await screen.findByText("No record came out like this.")).toBeTruthy();
  });
});

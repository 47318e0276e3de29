import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { job, layout } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { ProfilePage, ReferencesPage, RulesPage, StepsPage, TablesPage, TidyPage } from "./index";

const BASE = "/api/registers/customers";
const parameter = (name: string, ask: string, usual = "", choices: string[] = []) => ({
  name,
  label: name,
  ask,
  choices,
  default: usual,
});
const recipe = {
  version: 2,
  steps: { name: [{ do: "spaces" }] },
  kinds: [
    { name: "spaces", says: "Single blanks", parameters: [] },
    { name: "keep", says: "Keep only what fits", parameters: [parameter("pattern", "text")] },
    { name: "swap words", says: "Swap by a table", parameters: [parameter("table", "table")] },
  ],
  tables: ["lands"],
  actor: "ann",
  at: "2026-11-01T10:00:00Z",
};
const tried = {
  records: 10,
  complete: true,
  changed: 3,
  changed_by_step: [3],
  values: [{ records: 3, before: "Depot 12,  Oban", after: ["Depot 12, Oban"] }],
  stopped: [],
};

describe("the steps of a field", () => {
  const open = (more: Record<string, unknown> = {}) => {
    const asked = serve({
      [`GET ${BASE}/tidy/steps`]: recipe,
      [`GET ${BASE}/layout`]: layout,
      [`POST ${BASE}/tidy/try`]: tried,
      [`PUT ${BASE}/tidy/steps`]: job(),
      ...more,
    });
    show(<StepsPage />, { path: "/r/customers/tidy/steps?field=name", pattern: "/r/:slug/tidy/steps" });
    return asked;
  };
  const add = async (says: string) => {
    await userEvent.click(await screen.findByRole("button", { name: /Add a step/ }));
    await userEvent.click(await screen.findByRole("option", { name: says }));
  };

  it("show what each changes and the values before and after", async () => {
    open();
    expect(await screen.findByText("changes 3 records")).toBeTruthy();
    expect(screen.getByText("3 of 10 records change")).toBeTruthy();
    expect(screen.getAllByText("Depot 12, Oban")).toHaveLength(2);
    expect(screen.getByRole("button", { name: "Save and tidy again" }).hasAttribute("disabled")).toBe(true);
  });

  it("are added, ordered and saved with the version they were made from", async () => {
    const asked = open();
    await add("Swap by a table");
    await userEvent.click(screen.getByRole("button", { name: "Move step 2 up" }));
    await userEvent.click(screen.getByRole("button", { name: "Save and tidy again" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
        steps: { name: [{ do: "swap words", table: "lands" }, { do: "spaces" }] },
        seen_version: 2,
      }),
    );
  });

  it("take a pattern built from what was marked in real values", async () => {
    // While the pattern is missing, the steps cannot be tried as a whole: the examples come from those before it.
    const try_ = ({ body }: Asked) => (JSON.stringify(body).includes('"pattern":""') ? 400 : tried);
    const asked = open({ "POST /api/tidy/pattern": { pattern: "\\d{2}" }, [`POST ${BASE}/tidy/try`]: try_ });
    await add("Keep only what fits");
    await userEvent.click(screen.getByRole("button", { name: /From marked examples/ }));
    const example = within(await screen.findByRole("dialog")).getByRole<HTMLInputElement>("textbox", {
      name: "Example 1",
    });
    example.focus();
    example.setSelectionRange(6, 8);
    example.dispatchEvent(new Event("select", { bubbles: true }));
    await userEvent.click(await screen.findByRole("button", { name: "Build the pattern" }));
    await userEvent.click(await screen.findByRole("button", { name: "Use it" }));
    expect(asked.find(({ path }) => path === "/api/tidy/pattern")?.body).toEqual({
      examples: [{ text: "Depot 12, Oban", start: 6, end: 8 }],
    });
    expect(screen.getByRole<HTMLInputElement>("textbox", { name: "pattern of step 2" }).value).toBe("\\d{2}");
  });

  it("say which verdicts they would change once that is counted", async () => {
    const pair = {
      left_id: 1,
      right_id: 2,
      left: { name: "Tern" },
      right: { name: "ZZ Tern" },
      was: "unsure",
      becomes: "same",
    };
    const result = {
      records: 10,
      clusters_before: 9,
      clusters_after: 8,
      changes: [{ was: "unsure", becomes: "same", pairs: 1 }],
      sample: [pair],
    };
    const asked = open({
      [`POST ${BASE}/tidy/recount`]: job({ id: 7, kind: "recount" }),
      "GET /api/jobs": { jobs: [job({ id: 7, kind: "recount", status: "done", result })] },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Remove step 1" }));
    await userEvent.click(screen.getByRole("button", { name: "Which verdicts would change?" }));
    expect(await screen.findByText("ZZ Tern")).toBeTruthy();
    expect(screen.getByRole("link", { name: "unsure → same" }).getAttribute("href")).toBe("/r/customers/review/1/2");
    expect(asked.find(({ path }) => path.endsWith("/recount"))?.body).toEqual({ steps: {} });
  });

  it("say what is wrong with them and cannot be saved then", async () => {
    open({ [`POST ${BASE}/tidy/try`]: 400 });
    await add("Keep only what fits");
    expect((await screen.findByRole("alert")).textContent).toContain("problem 400");
    expect(screen.getByRole("button", { name: "Save and tidy again" }).hasAttribute("disabled")).toBe(true);
  });
});

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
    });
  });
});

describe("the profile", () => {
  const one = (value: string, records: number) => ({ value, records });
  const field = {
    name: "phone",
    label: "Phone",
    kind: "phone",
    checked: true,
    further: [3, 0],
    records: 200,
    filled: 199,
    empty: 1,
    distinct: 150,
    single: 120,
    frequent: [one("0000", 9)],
    shapes: [one("99999 999999", 180)],
    rare_shapes: [],
    shortest: 4,
    usual_length: 12,
    longest: 14,
    odd: [one("misread", 2)],
    gap_fillers: [one("0000", 9)],
    invalid: 11,
    invalid_examples: [one("n/a", 11)],
  };
  const profile = { records: 200, fields: [field], odd_letters: { misread: "letters misread" } };
  const open = (path: string, more: Record<string, unknown> = {}) => {
    const asked = serve({
      [`GET ${BASE}/profile`]: { profile },
      [`GET ${BASE}/sources`]: [{ name: "till", trust_rank: 1, own_duplicates: true }],
      [`GET ${BASE}/deliveries`]: [],
      ...more,
    });
    show(<ProfilePage />, { path: `/r/customers/tidy/profile${path}`, pattern: "/r/:slug/tidy/profile" });
    return asked;
  };

  it("shows figures whose numbers lead to the records behind them", async () => {
    open("?of=source till");
    const invalid = await screen.findByRole("link", { name: "11 records no valid phone" });
    expect(invalid.getAttribute("href")).toBe("/r/customers/tidy?field=phone&check=invalid&source=till");
    expect(screen.getByRole("link", { name: "2 records: misread" }).getAttribute("href")).toContain(
      "check=odd+letters&wanted=misread",
    );
    expect(screen.getByText(">99 %", { selector: "td span" })).toBeTruthy();
  });

  it("puts two sources side by side", async () => {
    const asked = open("?beside=source till");
    expect((await screen.findAllByRole("heading", { name: "Phone" })).length).toBe(1);
    await waitFor(() => expect(screen.getAllByRole("link", { name: "11 records no valid phone" })).toHaveLength(2));
    expect(asked.some(({ path }) => path.endsWith("/profile?source=till"))).toBe(true);
  });

  it("of very many records is made in the background", async () => {
    const asked = open("", { [`GET ${BASE}/profile`]: { profile: null }, [`POST ${BASE}/profile`]: job() });
    await userEvent.click(await screen.findByRole("button", { name: "Look at all values" }));
    await waitFor(() => expect(asked.some(({ method }) => method === "POST")).toBe(true));
  });
});

describe("quality rules", () => {
  const past = (failing: number) => ({ source: "till", at: "2026-11-01T10:00:00Z", records: 10, failing });
  const rule = {
    key: "phone: required",
    rule: { field: "phone", kind: "required", asked: "" },
    words: "Phone is filled",
    shares: [{ source: "till", records: 10, failing: 4 }],
    history: [past(1), past(4)],
  };
  const quality = {
    version: 4,
    rules: [rule],
    kinds: [
      { name: "required", says: "is filled", asks: "" },
      { name: "shape", says: "has one of the shapes {}", asks: "text" },
    ],
  };
  const open = () => {
    const asked = serve({
      [`GET ${BASE}/quality`]: quality,
      [`PUT ${BASE}/quality`]: { ...quality, rules: [] },
      [`GET ${BASE}/layout`]: layout,
      "GET /api/tables": { tables: [], ready_made: [] },
    });
    show(<RulesPage />, { path: "/r/customers/tidy/rules", pattern: "/r/:slug/tidy/rules" });
    return asked;
  };

  it("say how many records fail per source, lead to them, and show their course", async () => {
    open();
    const failing = await screen.findByRole("link", { name: "4 records of till fail: Phone is filled" });
    expect(failing.getAttribute("href")).toContain("check=rule&wanted=phone%3A+required&source=till");
    expect(screen.getByRole("img", { name: "Failing over time, at most 40 %" })).toBeTruthy();
  });

  it("are added with what they ask for, and removed", async () => {
    const asked = open();
    await userEvent.click(await screen.findByRole("button", { name: /What is expected/ }));
    await userEvent.click(await screen.findByRole("option", { name: /shapes/ }));
    const add = screen.getByRole("button", { name: "Add the rule" });
    expect(add.hasAttribute("disabled")).toBe(true);
    await userEvent.type(screen.getByLabelText("Shapes"), "AA99");
    await userEvent.click(add);
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
        rules: [rule.rule, { field: "name", kind: "shape", asked: "AA99" }],
        seen_version: 4,
      }),
    );
    expect(await screen.findByText("There are no rules yet.")).toBeTruthy();
  });
});

it("mends a value in all records that hold it, and undoes the step", async () => {
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
  await userEvent.click(await screen.findByRole("button", { name: "Mend these values…" }));
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

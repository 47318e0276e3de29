import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { golden, layout, register } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { GoldenRecordPage, MergePage } from "./index";

const BASE = "/api/registers/customers";

function page(more: Record<string, unknown> = {}) {
  const asked = serve({
    [`GET ${BASE}/golden/CU-00001`]: golden,
    [`GET ${BASE}/layout`]: layout,
    "GET /api/registers": [register],
    ...more,
  });
  show(<GoldenRecordPage />, { path: "/r/customers/golden/CU-00001", pattern: "/r/:slug/golden/:goldenKey" });
  return asked;
}

const bodyOf = (asked: Asked[], path: string) =>
  asked.find((call) => call.path === path && call.method === "POST")?.body;

describe("the golden record page", () => {
  it("shows where each value comes from, who lost and why", async () => {
    page();
    expect(await screen.findByText("ledger: the one most records agree on")).toBeTruthy();
    expect(screen.getByText("fewer records agree on it")).toBeTruthy();
    expect(screen.getByText("(won)")).toBeTruthy();
    expect(screen.getByText("stands for 2 records; earlier also CU-00009")).toBeTruthy();
    expect(screen.getByText("pinned by ann: called them")).toBeTruthy();
  });

  it("tells contradictions and lets one be settled, and loses no value that its records hold", async () => {
    page();
    await screen.findByText("Town is ribe and whitby.", { exact: false });
    expect(screen.queryByText("Phone is 1 and 2.", { exact: false })).toBeNull();
    expect(screen.getByText("Skua Rope")).toBeTruthy();
    expect(screen.getByText("till 000517 (billing)")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Choose or accept one" }));
    expect((await screen.findByRole("dialog")).textContent).toContain("Pin Town of CU-00001");
  });

  it("leads to what it refers to and to what refers to it, and tells where its records disagree", async () => {
    page();
    const relations = within(await screen.findByRole("region", { name: "Relations" }));
    const links = relations.getAllByRole("link").map((link) => link.getAttribute("href"));
    expect(links).toEqual(["/r/suppliers/golden/SU-00004", "/r/boat-owners/golden/BO-00002"]);
    expect(relations.getByText("Its records lead to several by employer.")).toBeTruthy();
    expect(relations.getByText("not merged yet")).toBeTruthy();
  });

  it("shows what it was on a day beside what it is", async () => {
    page({
      [`GET ${BASE}/golden/CU-00001/then`]: {
        key: "CU-00001",
        values: { name: "Skua Ropes" },
        members: [{ source: "till", source_key: "000517" }],
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "As it was…" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect(await dialog.findByText("Skua Ropes")).toBeTruthy();
    expect(dialog.getByText("It stood for 1 record: till 000517")).toBeTruthy();
  });

  it("says of a day before it was made that it was not in force", async () => {
    const asked = page({ [`GET ${BASE}/golden/CU-00001/then`]: { key: "CU-00001", values: null, members: [] } });
    await userEvent.click(await screen.findByRole("button", { name: "As it was…" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect(await dialog.findByText("It was not in force on that day.")).toBeTruthy();
    fireEvent.change(dialog.getByLabelText("At the end of"), { target: { value: "2026-01-31" } });
    await waitFor(() => expect(asked.at(-1)?.path).toContain("/then?at=2026-0"));
  });

  it("marks only what means something else, not what is written otherwise", async () => {
    const tidy = { name: "skua rope works" };
    page({
      [`GET ${BASE}/golden/CU-00001`]: {
        ...golden,
        members: golden.members.map((member) => ({ ...member, tidy })),
        contradictions: {},
        unsettled: [],
        held: [],
        leads_to: [],
        led_from: [],
      },
    });
    expect(await screen.findByText("SKUA ROPE")).toBeTruthy();
    expect(screen.queryByText("fewer records agree on it")).toBeNull();
    expect(screen.queryByRole("region", { name: "Contradictions" })).toBeNull();
    expect(screen.queryByRole("region", { name: "Relations" })).toBeNull();
    expect(screen.getByText("Nothing but what stands above.")).toBeTruthy();
  });

  it("says which links hold its records together and leads to the pair", async () => {
    page();
    expect(await screen.findByText("4.3 bits")).toBeTruthy();
    expect(screen.getByRole("link", { name: /–/ }).getAttribute("href")).toBe("/r/customers/review/1/2");
  });

  it("takes chosen records out with a reason, but never all of them", async () => {
    const asked = page({ [`POST ${BASE}/golden/CU-00001/split`]: { key: "CU-00044" } });
    const [first, second] = await screen.findAllByRole("checkbox");
    await userEvent.click(first as HTMLElement);
    await userEvent.click(second as HTMLElement);
    expect(screen.getByRole("button", { name: "Take 2 records out" }).hasAttribute("disabled")).toBe(true);
    await userEvent.click(second as HTMLElement);
    await userEvent.click(screen.getByRole("button", { name: "Take 1 record out" }));
    const dialog = within(await screen.findByRole("dialog"));
    await userEvent.type(dialog.getByLabelText("Reason"), "another firm");
    await userEvent.click(dialog.getByRole("button", { name: "Take 1 record out" }));
    await waitFor(() =>
      expect(bodyOf(asked, `${BASE}/golden/CU-00001/split`)).toEqual({
        record_ids: [1],
        seen_version: 3,
        reason: "another firm",
      }),
    );
  });

  it("puts its records side by side", async () => {
    page();
    const link = await screen.findByRole("link", { name: "Side by side" });
    expect(link.getAttribute("href")).toBe(
      `/r/customers/review/records?${golden.members.map(({ id }) => `record=${id}`).join("&")}`,
    );
  });

  it("pins a delivered value, only with a reason", async () => {
    const asked = page({ [`POST ${BASE}/golden/CU-00001/pins`]: { key: "CU-00001" } });
    await userEvent.click(await screen.findByRole("button", { name: "Pin Name" }));
    const dialog = within(await screen.findByRole("dialog"));
    await userEvent.click(dialog.getByRole("button", { name: "SKUA ROPE" }));
    const save = dialog.getByRole("button", { name: "Pin this value" });
    expect(save.hasAttribute("disabled")).toBe(true);
    await userEvent.type(dialog.getByLabelText("Reason"), "their sign says so");
    await userEvent.click(save);
    await waitFor(() =>
      expect(bodyOf(asked, `${BASE}/golden/CU-00001/pins`)).toEqual({
        field: "name",
        value: "SKUA ROPE",
        reason: "their sign says so",
        seen_version: 3,
      }),
    );
  });

  it("keeps the dialog open and says why when the record changed meanwhile", async () => {
    page({ [`POST ${BASE}/golden/CU-00001/pins`]: 409 });
    await userEvent.click(await screen.findByRole("button", { name: "Pin Name" }));
    const dialog = within(await screen.findByRole("dialog"));
    await userEvent.type(dialog.getByLabelText("Reason"), "x");
    await userEvent.click(dialog.getByRole("button", { name: "Pin this value" }));
    expect((await dialog.findByRole("alert")).textContent).toContain("problem 409");
  });

  it("undoes only steps that can be undone, and lifts pins with the version it saw", async () => {
    const asked = page({
      "POST /api/journal/9/undo": { entry: 10 },
      [`DELETE ${BASE}/golden/CU-00001/pins/7`]: { key: "CU-00001" },
    });
    const undo = await screen.findAllByRole("button", { name: "Undo this step" });
    expect(undo).toHaveLength(1);
    await userEvent.click(undo[0] as HTMLElement);
    await userEvent.click(screen.getByRole("button", { name: "Lift this pin" }));
    await waitFor(() =>
      expect(asked.map(({ path }) => path)).toContain(`${BASE}/golden/CU-00001/pins/7?seen_version=3`),
    );
    expect(asked.some(({ path }) => path === "/api/journal/9/undo?part=2&with_later=false")).toBe(true);
  });

  it("shows the later steps that rest on one, and takes them along only when told to", async () => {
    const later = "Later steps rest on this one: Took 1 record out (ann). Undo them first, or take them along.";
    const asked = page({
      "POST /api/journal/9/undo": ({ path }: Asked) =>
        path.includes("with_later=true") ? { entry: 10 } : { status: 409, detail: later },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Undo this step" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByText(later)).toBeTruthy();
    expect(asked.some(({ path }) => path.includes("with_later=true"))).toBe(false);
    await userEvent.click(dialog.getByRole("button", { name: "Undo this step and the later ones" }));
    await waitFor(() => expect(asked.some(({ path }) => path.includes("part=2&with_later=true"))).toBe(true));
  });
});

const preview = {
  run_id: 1,
  made: 3,
  single: 1,
  grown: 1,
  joined: 2,
  split: 0,
  records_added: 9,
  unsure_waiting: 4,
  contradictions: 1,
  sample: [
    {
      summary: "Merged CU-00002 into CU-00001",
      keys: ["CU-00001", "CU-00002"],
      records: [{ source: "till", source_key: "7", name: "SKUA ROPE" }],
      values: { name: "Skua Rope Works" },
    },
  ],
};

describe("the merge preview", () => {
  const open = (answer: unknown) => {
    const asked = serve({
      [`GET ${BASE}/merge`]: answer,
      [`POST ${BASE}/merge`]: {},
      "GET /api/registers": [register],
    });
    const shown = show(<MergePage />, { path: "/r/customers/golden/merge", pattern: "/r/:slug/golden/merge" });
    return { asked, ...shown };
  };

  it("says in sentences what will happen and shows a sample", async () => {
    open(preview);
    expect(await screen.findByText("3 golden records will be made, 1 of them from a single record.")).toBeTruthy();
    expect(screen.getByText(/2 merges will put several golden records together/)).toBeTruthy();
    expect(screen.getByText(/1 decision contradict others/)).toBeTruthy();
    expect(screen.getByText("Merged CU-00002 into CU-00001")).toBeTruthy();
    expect(screen.getByText("SKUA ROPE")).toBeTruthy();
  });

  it("merges only when told to, with the number of changes on the button", async () => {
    const { asked, router } = open(preview);
    const button = await screen.findByRole("button", { name: "Merge: change 6 golden records" });
    expect(asked.some(({ method }) => method === "POST")).toBe(false);
    await userEvent.click(button);
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/golden"));
  });

  it("has nothing to press when there is nothing to merge", async () => {
    open({ ...preview, made: 0, grown: 0, joined: 0, records_added: 0, sample: [] });
    expect(await screen.findByText("Golden records and clusters agree.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Nothing to merge" }).hasAttribute("disabled")).toBe(true);
  });
});

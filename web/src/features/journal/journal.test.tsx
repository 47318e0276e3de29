import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { beforeAndAfter } from "../../domain/journal";
import { job } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { JournalPage, WhyPage } from ".";

const HOME = "/api/registers/customers";
const entry = (id: number, summary: string, more: object = {}) => ({
  id,
  position: id,
  kind: "pin",
  summary,
  actor: "Maren",
  at: "2026-11-01T10:00:00Z",
  undoes: null,
  hash: "abc",
  ...more,
});
const whole = (id: number, more: object = {}) => ({
  entry: entry(id, `what ${id}`),
  data: { golden: 3, field: "phone" },
  values: { summary: `what ${id}`, was: "1", value: "2", reason: "their letterhead" },
  rests_on: [],
  undone_by: [],
  records: [],
  golden: ["CU-00003"],
  moved: [],
  moves: 0,
  ...more,
});

function journal(more: Record<string, unknown> = {}) {
  const asked = serve({
    [`GET ${HOME}/journal`]: ({ path }: Asked) =>
      path.includes("before=")
        ? { entries: [entry(1, "the first")], behind: null }
        : { entries: [entry(3, "the third"), entry(2, "the second")], behind: 2 },
    [`GET ${HOME}/journal/choices`]: { kinds: ["pin", "split"], people: ["Maren", "Una"] },
    [`GET ${HOME}/journal/entries/3`]: whole(3),
    [`GET ${HOME}/journal/entries/2`]: whole(2, { values: null, undone_by: [3] }),
    "GET /api/jobs": { jobs: [] },
    ...more,
  });
  return { asked, ...show(<JournalPage />, { path: "/r/customers/journal", pattern: "/r/:slug/journal" }) };
}

describe("the journal", () => {
  it("lists what was done, opens an entry with before and after, and looks further back", async () => {
    const { router } = journal();
    const pane = within(await screen.findByRole("region", { name: "The entry" }));
    expect(await pane.findByText("their letterhead")).toBeTruthy();
    const row = within(pane.getByRole("rowheader", { name: "phone" }).closest("tr") as HTMLElement);
    expect(row.getAllByRole("cell").map((cell) => cell.textContent)).toEqual(["1", "2"]);
    await userEvent.click(screen.getByRole("button", { name: "the second" }));
    expect(await pane.findByText(/were erased; its seal holds/)).toBeTruthy();
    expect(router.state.location.search).toBe("?entry=2");
    await userEvent.click(screen.getByRole("button", { name: "Look further back" }));
    expect(await screen.findByRole("button", { name: "the first" })).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Look further back" })).toBeNull();
  });

  it("is looked through, and what is found is taken along", async () => {
    const { asked, router } = journal();
    await userEvent.type(await screen.findByLabelText("Words, reasons, values"), "quay");
    await waitFor(() => expect(router.state.location.search).toContain("words=quay"));
    await userEvent.click(screen.getByRole("button", { name: /By/ }));
    await userEvent.click(await screen.findByRole("option", { name: "Una" }));
    await userEvent.type(screen.getByLabelText("since"), "2026-11-01");
    await waitFor(() => expect(asked.at(-1)?.path).toMatch(/actor=Una.*since=2026-1/));
    await userEvent.click(screen.getByRole("button", { name: /Take along/ }));
    const csv = await screen.findByRole("menuitem", { name: /CSV/ });
    expect(csv.getAttribute("href")).toMatch(/journal\/table\.csv\?.*actor=Una/);
    await userEvent.keyboard("{Escape}");
    await userEvent.click(await screen.findByRole("button", { name: "all about it" }));
    await waitFor(() => expect(router.state.location.search).toContain("golden_key=CU-00003"));
    await userEvent.click(screen.getByRole("button", { name: "Not only CU-00003" }));
    await waitFor(() => expect(router.state.location.search).not.toContain("golden_key"));
  });

  it("is verified, and what does not fit is told", async () => {
    const done = job({ status: "done", result: { entries: 812, wrong: 1, problems: ["entry 7 was changed"] } });
    journal({ [`POST ${HOME}/journal/verification`]: job(), "GET /api/jobs": { jobs: [done] } });
    await userEvent.click(await screen.findByRole("button", { name: "Verify it" }));
    expect(await screen.findByText("entry 7 was changed")).toBeTruthy();
    expect(screen.getByText(/1 entry does not fit/)).toBeTruthy();
  });
});

describe("why", () => {
  it("tells what holds two records together and what happened, what was taken back struck out", async () => {
    const record = (id: number, name: string) => ({ id, source: "till", source_key: `t${id}`, name });
    const at = "2026-11-01T10:00:00Z";
    serve({
      [`GET ${HOME}/why`]: {
        left: record(1, "Tern Ropes"),
        right: record(2, "TERN ROPES LTD"),
        left_key: "CU-00001",
        right_key: "CU-00001",
        are_one: true,
        path: [{ left: record(1, "Tern Ropes"), right: record(2, "TERN ROPES LTD"), score: 12.5, says: "Same phone." }],
        happened: [
          { at, actor: "", what: "delivered", says: "till t1 came", reason: "", entry: null, undone: false },
          { at, actor: "Una", what: "split", says: "Took one out", reason: "a branch", entry: 9, undone: true },
        ],
      },
    });
    show(<WhyPage />, { path: "/r/customers/why?left=1&right=2", pattern: "/r/:slug/why" });
    expect((await screen.findByText(/are one golden record today/)).textContent).toContain("TERN ROPES LTD (till t2)");
    expect(screen.getByText(/Same phone/)).toBeTruthy();
    expect(screen.getByText("Took one out").className).toContain("line-through");
    expect(screen.getByText(/because: a branch/)).toBeTruthy();
    expect(screen.getByRole("link", { name: "entry 9" }).getAttribute("href")).toBe("/r/customers/journal?entry=9");
  });
});

it("tells trees by what differs in them, and other values beside each other", () => {
  expect(beforeAndAfter({ before: { a: 1, b: 2 }, after: { a: 1, b: 3, c: [4] } }, null).changes).toEqual([
    { name: "b", before: "2", after: "3" },
    { name: "c", before: "–", after: "[\n 4\n]" },
  ]);
  expect(beforeAndAfter({ before: 3, after: 4, yaml: "x" }, { summary: "s" })).toEqual({
    changes: [{ name: "value", before: "3", after: "4" }],
    rest: [{ name: "yaml", value: "x" }],
  });
  expect(beforeAndAfter({ count: 2 }, { remark: "" }).rest).toEqual([
    { name: "count", value: "2" },
    { name: "remark", value: "–" },
  ]);
});

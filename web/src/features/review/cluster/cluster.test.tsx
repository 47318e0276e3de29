import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { columnsOf, groupsOf, marksOf, sidesWithout } from "../../../domain/cluster";
import { layout } from "../../../tests/examples";
import { type Asked, serve, show } from "../../../tests/render";
import { RecordsPage, ReviewPage } from "../index";
import { differs } from "./ClusterTable";
import { linkInWords, weakestOf } from "./LinksDrawing";

const HOME = "/api/registers/customers";
const record = (id: number, name: string, phone = "") => ({
  id,
  source: "till",
  source_key: `T${id}`,
  fields: { name, ...(phone && { phone }) },
  tidy: { name: name.toLowerCase(), ...(phone && { phone }) },
});
const link = (left_id: number, right_id: number, score: number, more = {}) => ({
  left_id,
  right_id,
  score,
  same: true,
  decided: "",
  reason: `Why ${left_id} ${right_id}.`,
  holds: true,
  bridge: true,
  ...more,
});
const cluster = {
  records: [record(1, "Skua Rope"), record(2, "SKUA ROPE"), record(3, "Tern Rope", "01632 960003")],
  golden_keys: { 1: "CU-00001" },
  alike: [[1, 2]],
  values: { name: "Skua Rope", phone: "01632 960003" },
  says: { name: "what most sources support" },
  links: [link(1, 2, 12), link(2, 3, 4.2)],
  said: [],
  fields: layout.fields.map(({ name, label }) => ({ name, label })),
};

function bench(more: Record<string, unknown> = {}): Asked[] {
  return serve({
    [`GET ${HOME}/clusters`]: cluster,
    [`GET ${HOME}/clusters/of/1`]: [1, 2, 3],
    [`POST ${HOME}/clusters/golden`]: ({ body }: Asked) =>
      (body as { groups: number[][] }).groups.map((group) => ({ name: `of ${group.join("+")}` })),
    [`POST ${HOME}/group-decisions`]: ({ body }: Asked) => ({ ...(body as object), id: 5, contradicts: [] }),
    ...more,
  });
}

const decided = (asked: Asked[]) =>
  asked.filter(({ path }) => path.endsWith("/group-decisions")).map(({ body }) => body);
const openTable = () =>
  show(<RecordsPage />, { path: "/r/customers/review/records?of=1", pattern: "/r/:slug/review/records" });

beforeEach(() => {
  vi.spyOn(HTMLElement.prototype, "clientHeight", "get").mockReturnValue(600);
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(900);
});

describe("the cluster table", () => {
  it("shows what differs first, how many fields are filled, and the golden record last", async () => {
    bench();
    openTable();
    expect(await screen.findByText("CU-00001")).toBeTruthy();
    const heads = screen.getAllByRole("columnheader").map(({ textContent }) => textContent);
    expect(heads.at(-1)).toBe("Golden record");
    expect(heads.some((text) => text?.includes("2 fields filled"))).toBe(true);
    expect(screen.getAllByRole("rowheader")[0]?.textContent).toBe("Name");
    expect(differs("name", cluster.records)).toBe(true);
    expect(differs("phone", cluster.records)).toBe(false);
    expect(differs("name", cluster.records.slice(0, 2))).toBe(false);
  });

  it("accepts by one key, and splits as marked, with the golden records of both sides before", async () => {
    const asked = bench();
    openTable();
    await screen.findByText("CU-00001");
    await userEvent.keyboard("{ArrowRight}{ArrowRight}x");
    expect(await screen.findByText("of 1+2")).toBeTruthy();
    expect(screen.getByText("of 3")).toBeTruthy();
    await userEvent.keyboard("s");
    expect(decided(asked)).toEqual([]);
    await userEvent.keyboard("d");
    await waitFor(() => expect(decided(asked)[0]).toMatchObject({ verdict: "different", sides: [[1, 2], [3]] }));
  });

  it("rejects a cluster without marks as a whole", async () => {
    const asked = bench();
    openTable();
    await screen.findByText("CU-00001");
    await userEvent.click(screen.getByRole("button", { name: /None are the same/ }));
    await waitFor(() => expect(decided(asked)[0]).toMatchObject({ verdict: "different", sides: [[1], [2], [3]] }));
  });

  it("marks both sides of a link that is chosen in the drawing", async () => {
    const asked = bench();
    openTable();
    await screen.findByText("CU-00001");
    await userEvent.keyboard("k");
    await userEvent.click(await screen.findByRole("button", { name: /T2 – T3/ }));
    await userEvent.keyboard("d");
    await waitFor(() => expect(decided(asked)[0]).toMatchObject({ sides: [[1, 2], [3]] }));
  });

  it("folds records that are alike, and adds one found by search", async () => {
    const asked = bench({
      [`GET ${HOME}/records`]: {
        records: [{ ...record(8, "Skua"), state: "present", delivered: {} }],
        total: 1,
        at_least: false,
        before: "",
        behind: "",
      },
    });
    openTable();
    await screen.findByText("CU-00001");
    await userEvent.keyboard("h");
    expect(await screen.findByRole("button", { name: "2 alike" })).toBeTruthy();
    await userEvent.keyboard("+");
    await userEvent.type(await screen.findByLabelText("Search all records"), "skua");
    await userEvent.click(await screen.findByRole("checkbox", { name: /Skua/ }));
    await userEvent.click(screen.getByRole("button", { name: "Add to the table" }));
    await waitFor(() => expect(asked.at(-1)?.path).toContain("record=8"));
  });

  it("pins a value where there is a golden record, and says what to do where there is none", async () => {
    const asked = bench({
      [`GET ${HOME}/golden/CU-00001`]: { key: "CU-00001", version: 7 },
      [`POST ${HOME}/golden/CU-00001/pins`]: {},
    });
    openTable();
    await userEvent.click(await screen.findByRole("button", { name: "Skua Rope" }));
    await userEvent.type(await screen.findByLabelText("Reason"), "as on the sign");
    await userEvent.click(screen.getByRole("button", { name: "Pin it" }));
    await waitFor(() => expect(asked.at(-1)?.path).toBeTruthy());
    await waitFor(() =>
      expect(asked.find(({ path }) => path.endsWith("/pins"))?.body).toMatchObject({
        field: "name",
        value: "Skua Rope",
        seen_version: 7,
      }),
    );
    await userEvent.click(await screen.findByRole("button", { name: "Tern Rope" }));
    expect(await screen.findByText(/no golden record yet/)).toBeTruthy();
  });

  it("stands in the queue and leaves it when it is decided", async () => {
    const doubt = {
      what: "cluster",
      cluster: 1,
      left_id: 2,
      right_id: 3,
      score: 4.2,
      kind: "weak link",
      kind_says: "cluster: hangs on one weak link",
      changed: [],
      put_off: false,
      left_name: "Skua Rope",
      right_name: "Tern Rope",
      records: 3,
      value: 0,
      since: "",
      until: null,
      asked: "",
    };
    const asked = bench({
      [`GET ${HOME}/review`]: { waiting: 1, put_off: 0, behind: "", doubts: [doubt] },
      [`GET ${HOME}/review/kinds`]: [],
      [`POST ${HOME}/review/leases`]: [],
    });
    show(<ReviewPage />, { path: "/r/customers/review", pattern: "/r/:slug/review/:leftId?/:rightId?" });
    expect(await screen.findByText("cluster of 3 records")).toBeTruthy();
    await screen.findByText("CU-00001");
    await userEvent.keyboard("s");
    await waitFor(() => expect(decided(asked)[0]).toMatchObject({ verdict: "same", sides: [[1, 2, 3]], cluster: 1 }));
    await waitFor(() => expect(screen.getByText("0 wait")).toBeTruthy());
  });
});

describe("records that a person puts side by side", () => {
  it("are found across the register, two of them face to face and more as a table", async () => {
    const found = [record(11, "Skua"), record(7, "SKUA"), record(9, "Skua Ltd")].map((one) => ({
      ...one,
      state: "present",
      delivered: {},
    }));
    bench({
      [`GET ${HOME}/review`]: { waiting: 0, put_off: 0, behind: "", doubts: [] },
      [`GET ${HOME}/review/kinds`]: [],
      [`GET ${HOME}/records`]: { records: found, total: 3, at_least: false, before: "", behind: "" },
    });
    const { router } = show(<ReviewPage />, { path: "/r/customers/review", pattern: "/r/:slug/review/*" });
    await screen.findByText("Nothing is in doubt.");
    const choose = async (...keys: string[]) => {
      await userEvent.keyboard("f");
      await userEvent.type(await screen.findByLabelText("Search all records"), "skua");
      for (const key of keys)
        await userEvent.click(await screen.findByRole("checkbox", { name: new RegExp(`till ${key}$`) }));
      await userEvent.click(screen.getByRole("button", { name: "Put them side by side" }));
    };
    await choose("T11", "T7");
    expect(router.state.location.pathname).toBe("/r/customers/review/7/11");
    await choose("T11", "T7", "T9");
    expect(router.state.location.pathname).toBe("/r/customers/review/records");
    expect(router.state.location.search).toBe("?record=11&record=7&record=9");
  });

  it("need an address that names them", async () => {
    bench();
    show(<RecordsPage />, { path: "/r/customers/review/records", pattern: "/r/:slug/review/records" });
    expect(await screen.findByText("No records are named in this address.")).toBeTruthy();
  });

  it("are told as contradicting what else was said, and stay where they are until that is read", async () => {
    const said = { id: 3, left_id: 1, right_id: 9, verdict: "same", at: "2026-11-01T10:00:00Z" };
    const asked = bench({
      [`POST ${HOME}/group-decisions`]: {
        id: 5,
        contradicts: [{ different: { ...said, id: 0, verdict: "different" }, chain: [said] }],
      },
      "POST /api/decisions/3/withdraw": { ...said, remark: "", actor: "ann" },
    });
    openTable();
    await screen.findByText("CU-00001");
    await userEvent.keyboard("s");
    expect(await screen.findByText("These decisions contradict each other")).toBeTruthy();
    expect(screen.getByRole("link", { name: "said of a group" }).getAttribute("href")).toContain("record=1&record=9");
    await userEvent.click(screen.getByRole("button", { name: "Take back" }));
    await waitFor(() => expect(asked.some(({ path }) => path === "/api/decisions/3/withdraw")).toBe(true));
  });
});

describe("what a link is, in words", () => {
  const links = [link(1, 2, 12, { bridge: false }), link(2, 3, 4.2), link(1, 3, 2, { holds: false, bridge: false })];

  it("names the weakest that holds and what nothing else stands in for", () => {
    const weakest = weakestOf(links);
    expect([weakest?.left_id, weakest?.right_id]).toEqual([2, 3]);
    expect(linkInWords(links[1] as never, weakest)).toMatch(/^\+4.2 bits: Why 2 3\. Nothing else .* The weakest/);
    expect(linkInWords(links[0] as never, weakest)).toBe("+12.0 bits: Why 1 2.");
    expect(linkInWords({ ...(links[0] as never as object), score: null } as never, weakest)).toBe("Why 1 2.");
    expect(weakestOf(links.slice(0, 1))).toBeUndefined();
  });
});

describe("cuts, marks and columns", () => {
  it("fall apart where a link goes", () => {
    expect(
      sidesWithout(
        [1, 2, 3, 4],
        [
          [1, 2],
          [2, 3],
        ],
        [2, 3],
      ),
    ).toEqual([[1, 2], [3], [4]]);
    expect(
      sidesWithout(
        [1, 2, 3],
        [
          [1, 2],
          [2, 3],
          [1, 3],
        ],
        [2, 3],
      ),
    ).toEqual([[1, 2, 3]]);
  });

  it("are marked with the largest group first", () => {
    const marks = marksOf([[1], [2, 3]]);
    expect(groupsOf([1, 2, 3], marks)).toEqual([[2, 3], [1]]);
    expect(groupsOf([1, 2], {})).toEqual([[1, 2]]);
  });

  it("fold only what was not unfolded", () => {
    expect(columnsOf([1, 2, 3], [[1, 3]], true, new Set())).toEqual([[1, 3], [2]]);
    expect(columnsOf([1, 2, 3], [[1, 3]], true, new Set([1]))).toEqual([[1], [2], [3]]);
    expect(columnsOf([1, 2, 3], [[1, 3]], false, new Set())).toEqual([[1], [2], [3]]);
  });
});

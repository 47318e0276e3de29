import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { layout, pair, queued, register } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { Toasts } from "../../ui";
import { ReviewPage } from "./index";
import { kappaInWords } from "./Progress";
import { isFiltered, readState, USUAL, writeState } from "./queueState";

const PATTERN = "/r/:slug/review/:leftId?/:rightId?";
const HOME = "/api/registers/customers";
const decision = { id: 9, verdict: "same", remark: "", actor: "ann", at: "2026-11-01T10:00:00Z", withdrawn_at: null };

function desk(more: Record<string, unknown> = {}): Asked[] {
  return serve({
    [`GET ${HOME}/review`]: { waiting: queued.length, put_off: 0, behind: "", doubts: queued },
    [`GET ${HOME}/review/kinds`]: [
      { kind: "name=equal|address=other town", says: "same name, other town", waiting: 3 },
    ],
    [`GET ${HOME}/review/people`]: ["ann", "bob"],
    [`GET ${HOME}/sources`]: [{ name: "till", trust_rank: 1, own_duplicates: true, query: null }],
    ...Object.fromEntries(
      queued.map((item) => [
        `GET ${HOME}/pairs/${item.left_id}/${item.right_id}`,
        {
          ...pair,
          left: { ...pair.left, id: item.left_id },
          right: { ...pair.right, id: item.right_id },
          reason: `Pair ${item.left_id} is in doubt.`,
        },
      ]),
    ),
    [`POST ${HOME}/decisions`]: ({ body }: Asked) => ({ ...decision, ...(body as object), contradicts: [] }),
    [`POST ${HOME}/review/leases`]: [],
    ...more,
  });
}

function open(path = "/r/customers/review") {
  return show(
    <>
      <ReviewPage />
      <Toasts />
    </>,
    { path, pattern: PATTERN },
  );
}

const kept = (asked: Asked[]) =>
  asked.filter(({ method, path }) => method === "POST" && path === `${HOME}/decisions`).map(({ body }) => body);

beforeEach(() => {
  vi.spyOn(HTMLElement.prototype, "clientHeight", "get").mockReturnValue(600);
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(300);
});

describe("the state of the queue", () => {
  it("stands in the address, all of it and nothing that is as usual", () => {
    expect(writeState(USUAL).toString()).toBe("");
    const state = { ...USUAL, order: "age" as const, kind: "name=equal|", source: "till", what: "cluster" as const };
    expect(readState(writeState(state))).toEqual(state);
    expect(readState(new URLSearchParams("order=loudest&what=all"))).toEqual(USUAL);
    expect([isFiltered({ ...USUAL, order: "value" }), isFiltered(state)]).toEqual([false, true]);
  });

  it("asks for what was chosen, and keeps it as a view with an address", async () => {
    const asked = desk({
      [`GET ${HOME}/queue-views`]: [{ name: "Old ones", content: { order: "age" }, actor: "ann" }],
      [`PUT ${HOME}/queue-views/Mine`]: { name: "Mine", content: {}, actor: "ann" },
    });
    const { router } = open();
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.click(screen.getByRole("button", { name: /^Kind of doubt/ }));
    await userEvent.click(await screen.findByRole("option", { name: /same name, other town/ }));
    await waitFor(() => expect(router.state.location.search).toContain("kind=name"));
    await userEvent.keyboard("v");
    const dialog = within(await screen.findByRole("dialog"));
    expect((await dialog.findByRole("link", { name: "Old ones" })).getAttribute("href")).toBe(
      "/r/customers/review?order=age",
    );
    await userEvent.type(dialog.getByLabelText("Keep this view as"), "Mine");
    await userEvent.click(dialog.getByRole("button", { name: "Keep" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toMatchObject({
        kind: "name=equal|address=other town",
      }),
    );
  });
});

describe("the most valuable first", () => {
  const fields = [
    ...layout.fields,
    { name: "revenue", label: "Revenue", kind: "number", group: "revenue", added: true, register_slug: "" },
  ];

  it("goes by a field of numbers that is chosen", async () => {
    const asked = desk({
      "GET /api/registers": [register],
      [`GET ${HOME}/layout`]: { ...layout, fields },
      [`PUT ${HOME}/value-field`]: { ...register, value_field: "revenue" },
    });
    open("/r/customers/review?order=value");
    await userEvent.click(await screen.findByRole("button", { name: /^Value/ }));
    await userEvent.click(await screen.findByRole("option", { name: "by Revenue" }));
    await waitFor(() => expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({ field: "revenue" }));
  });

  it("says so where there is none", async () => {
    desk({ "GET /api/registers": [register], [`GET ${HOME}/layout`]: layout });
    open("/r/customers/review?order=value");
    expect(await screen.findByText(/no field of numbers/)).toBeTruthy();
  });
});

describe("several at one desk", () => {
  it("goes on to the next doubt when somebody else has this one", async () => {
    desk({
      [`POST ${HOME}/review/leases`]: ({ body }: Asked) =>
        (body as { doubts: [number, number][] }).doubts[0]?.[0] === 1
          ? [{ left_id: 1, right_id: 2, holder: "bob" }]
          : [],
    });
    const { router } = open();
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/review/3/4"));
    expect(await screen.findByText("bob has this one at another desk; here is the next.")).toBeTruthy();
  });

  it("sends one request for its doubts after the other, so that the last one counts", async () => {
    let answer: (taken: unknown[]) => void = () => undefined;
    const first = new Promise((resolve) => {
      answer = resolve;
    });
    const asked = desk({ [`POST ${HOME}/review/leases`]: () => (said().length > 1 ? [] : first) });
    const said = () =>
      asked
        .filter(({ path }) => path === `${HOME}/review/leases`)
        .map(({ body }) => (body as { doubts: unknown[] }).doubts[0]);
    open();
    expect(await screen.findByText("Pair 1 is in doubt.")).toBeTruthy();
    await userEvent.keyboard("{ArrowDown}");
    expect(await screen.findByText("Pair 3 is in doubt.")).toBeTruthy();
    expect(said()).toHaveLength(1);
    answer([]);
    await waitFor(() =>
      expect(said()).toEqual([
        [1, 2],
        [3, 4],
      ]),
    );
  });

  it("never says that nothing is in doubt while others have all that waits", async () => {
    const free = { waiting: 2, put_off: 0, behind: "", doubts: [] as unknown[] };
    desk({ [`GET ${HOME}/review`]: () => free });
    open();
    expect(await screen.findByText("Others have all that waits before them.")).toBeTruthy();
    expect(screen.queryByText("Nothing is in doubt.")).toBeNull();
    free.doubts = [queued[0]];
    expect(await screen.findByText("Pair 1 is in doubt.", {}, { timeout: 9000 })).toBeTruthy();
  }, 20_000);

  it("shows what oneself is asked, under the name that the server keeps", async () => {
    const asked = desk({
      [`GET ${HOME}/review/progress`]: { actor: "zoe", same: 1, different: 0, later: 2, waiting: 3 },
    });
    const { router } = open();
    expect(await screen.findByText(/Today you said same of 1, different of 0, later of 2/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /^What is looked at/ }));
    await userEvent.click(await screen.findByRole("option", { name: "What I am asked" }));
    await waitFor(() => expect(router.state.location.search).toBe("?asked=zoe"));
    await waitFor(() => expect(asked.some(({ path }) => path.includes("asked=zoe"))).toBe(true));
  });

  it("puts a doubt off until a day and asks somebody by name", async () => {
    const asked = desk();
    open();
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("w");
    await userEvent.type(await screen.findByLabelText("Comes back on"), "2030-01-31");
    await userEvent.type(screen.getByLabelText("Ask"), "bob");
    await userEvent.click(screen.getByRole("button", { name: "Ask bob" }));
    await waitFor(() => expect(kept(asked)[0]).toMatchObject({ verdict: "later", until: "2030-01-31", asked: "bob" }));
  });

  it("tells contradicting decisions when they arise, with a way out for each", async () => {
    const said = (id: number, verdict: string) => ({ id, left_id: id, right_id: id + 1, verdict, at: decision.at });
    const asked = desk({
      [`POST ${HOME}/decisions`]: {
        ...decision,
        left_id: 1,
        right_id: 2,
        contradicts: [{ different: said(7, "different"), chain: [said(8, "same"), said(9, "same")] }],
      },
      "POST /api/decisions/8/withdraw": { ...decision, id: 8 },
    });
    open();
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("s");
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getAllByRole("button", { name: "Take back" })).toHaveLength(3);
    await userEvent.click(dialog.getAllByRole("button", { name: "Take back" })[1] as HTMLElement);
    await waitFor(() => expect(asked.some(({ path }) => path === "/api/decisions/8/withdraw")).toBe(true));
  });

  it("tells what second looks said otherwise, where that is asked for", async () => {
    const asked = desk({
      [`GET ${HOME}/contradictions`]: [],
      [`GET ${HOME}/second-looks/disagreements`]: [
        { decision: { ...decision, left_id: 4, right_id: 8 }, actor: "bob", verdict: "different", at: decision.at },
      ],
      "POST /api/decisions/9/withdraw": { ...decision, left_id: 4, right_id: 8 },
    });
    const { router } = open("/r/customers/review?contradictions=1");
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByRole("link", { name: /same by ann.*different by bob/ }).getAttribute("href")).toBe(
      "/r/customers/review/4/8",
    );
    await userEvent.click(dialog.getByRole("button", { name: "Take back" }));
    await waitFor(() => expect(asked.some(({ path }) => path === "/api/decisions/9/withdraw")).toBe(true));
    await waitFor(() => expect(router.state.location.search).toBe(""));
  });

  it("shows a decided pair again, unmarked, and keeps what is said of it beside the decision", async () => {
    const again = { ...decision, left_id: 11, right_id: 12, verdict: "different", actor: "bob" };
    const many = Array.from({ length: 24 }, (_, place) => ({
      ...queued[0],
      left_id: 100 + 2 * place,
      right_id: 101 + 2 * place,
    }));
    const of = (id: number) => ({
      ...pair,
      left: { ...pair.left, id },
      right: { ...pair.right, id: id + 1 },
      reason: `Pair ${id} is in doubt.`,
    });
    const asked = desk({
      [`GET ${HOME}/review`]: { waiting: 24, put_off: 0, behind: "", doubts: many },
      ...Object.fromEntries(
        many.map(({ left_id, right_id }) => [`GET ${HOME}/pairs/${left_id}/${right_id}`, of(left_id)]),
      ),
      [`GET ${HOME}/pairs/11/12`]: { ...of(11), decision: again },
      [`GET ${HOME}/second-looks/next`]: [again],
      [`POST ${HOME}/second-looks`]: {},
    });
    open();
    for (let place = 0; place < 20; place++) {
      await screen.findByText(`Pair ${100 + 2 * place} is in doubt.`);
      await userEvent.keyboard("s");
    }
    await screen.findByText("Pair 11 is in doubt.");
    expect(screen.queryByText(/Decided “different” by bob/)).toBeNull();
    await userEvent.keyboard("d");
    await waitFor(() =>
      expect(asked.find(({ path }) => path === `${HOME}/second-looks`)?.body).toEqual({
        left_id: 11,
        right_id: 12,
        verdict: "different",
      }),
    );
    expect(kept(asked)).toHaveLength(20);
  }, 30_000);
});

describe("all like this one", () => {
  const likes = {
    kind: "name=equal|address=other town",
    says: "same name, other town",
    levels: [
      ["name", "equal"],
      ["phone", "missing"],
    ],
    from_score: 1,
    to_score: 3.5,
    seen: "abc",
    sample: [],
    pairs: [{ left_id: 1, right_id: 2, score: 3.5, left_name: "Skua", right_name: "SKUA" }],
  };

  it("is decided in one step with a reason, of exactly the set that was seen, and taken back in one", async () => {
    const asked = desk({
      [`GET ${HOME}/pairs/1/2/likes`]: { ...likes, sample: likes.pairs },
      [`POST ${HOME}/pairs/1/2/likes`]: { entry_id: 5, pairs: 1 },
      [`POST ${HOME}/review/take-back`]: { what: "many", verdict: "different", count: 1, left_id: 1, right_id: 2 },
    });
    open();
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("a");
    const dialog = within(await screen.findByRole("dialog"));
    expect(await dialog.findByText(/1 pair of the kind “same name, other town”/)).toBeTruthy();
    const all = dialog.getByRole("button", { name: "All 1 are different" });
    expect(all.hasAttribute("disabled")).toBe(true);
    await userEvent.type(dialog.getByLabelText("Reason"), "branches");
    await userEvent.click(all);
    await waitFor(() =>
      expect(asked.find(({ method, path }) => method === "POST" && path.endsWith("/likes"))?.body).toEqual({
        verdict: "different",
        remark: "branches",
        seen: "abc",
      }),
    );
    await userEvent.click(await screen.findByRole("button", { name: "Take all back" }));
    await waitFor(() => expect(asked.some(({ path }) => path.endsWith("/take-back"))).toBe(true));
  });

  it("says when others were added or decided meanwhile", async () => {
    desk({
      [`GET ${HOME}/pairs/1/2/likes`]: likes,
      [`POST ${HOME}/pairs/1/2/likes`]: { status: 409, detail: "There are 2 such pairs now, others than you saw." },
    });
    open();
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("a");
    await userEvent.type(await screen.findByLabelText("Reason"), "x");
    await userEvent.click(screen.getByRole("button", { name: "All 1 are the same" }));
    expect((await screen.findByRole("alert")).textContent).toContain("2 such pairs now");
  });
});

describe("around a pair", () => {
  it("tells who shares its values, what a same would change, and earlier decisions", async () => {
    const other = { ...pair.left, id: 77, source_key: "000777" };
    desk({
      [`GET ${HOME}/pairs/1/2/neighbours`]: [
        {
          field: "phone",
          label: "Phone",
          value: "+441632960001",
          shared: true,
          others: 4,
          at_least: false,
          records: [other],
        },
        { field: "name", label: "Name", value: "skua", shared: false, others: 1, at_least: false, records: [] },
      ],
      [`GET ${HOME}/pairs/1/2/context`]: {
        left_cluster: [other],
        right_cluster: [],
        left_key: "CU-00001",
        right_key: "",
        left_golden: { "address.city": "Kinsale" },
        right_golden: { "address.city": "Dingle" },
        together: { "address.city": "Kinsale" },
        said: [
          {
            id: 3,
            is_group: false,
            verdict: "different",
            remark: "two branches",
            actor: "bob",
            at: decision.at,
            withdrawn: true,
            sides: [[1], [9]],
          },
        ],
      },
    });
    open();
    expect(await screen.findByText(/4 other records share this phone/)).toBeTruthy();
    await userEvent.keyboard("n");
    const panel = within(await screen.findByRole("region", { name: "Around this pair" }));
    expect(panel.getByText(/two branches/)).toBeTruthy();
    expect(panel.getByText("Dingle")).toBeTruthy();
    await userEvent.click(panel.getByRole("button", { name: /share this phone/ }));
    expect(panel.getAllByRole("link")[0]?.getAttribute("href")).toBe("/r/customers/review/1/77");
  });

  it("says where records that no run brought together were lost", async () => {
    desk({
      [`GET ${HOME}/pairs/1/2`]: {
        ...pair,
        lost_at: "They share no blocking key, so that they were never compared.",
        keys: [],
      },
    });
    open("/r/customers/review/1/2");
    expect(await screen.findByText(/share no blocking key/)).toBeTruthy();
  });
});

it("tells agreement as a figure with its margin, or nothing", () => {
  expect(kappaInWords({ pairs: 34, equal: 30, kappa: 0.82, margin: 0.11 })).toBe("kappa 0.82 ± 0.11 of 34 pairs");
  expect(kappaInWords({ pairs: 0, equal: 0, kappa: null, margin: null })).toBe("");
});

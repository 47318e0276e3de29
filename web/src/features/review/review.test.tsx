import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { pair, queued } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { EvidenceScale } from "./EvidenceScale";
import { FaceSheet } from "./FaceSheet";
import { ReviewPage } from "./index";
import { Seam } from "./Seam";

const PATTERN = "/r/:slug/review/:leftId?/:rightId?";

function faced(left: number) {
  return {
    ...pair,
    left: { ...pair.left, id: left },
    right: { ...pair.right, id: left + 1 },
    reason: `Pair ${left} is in doubt.`,
  };
}

function desk(more: Record<string, unknown> = {}): Asked[] {
  let next = 100;
  return serve({
    "GET /api/registers/customers/review": { waiting: queued.length, put_off: 0, behind: "", doubts: queued },
    "GET /api/registers/customers/review/kinds": [],
    ...Object.fromEntries(
      queued.map((item) => [
        `GET /api/registers/customers/pairs/${item.left_id}/${item.right_id}`,
        faced(item.left_id),
      ]),
    ),
    "GET /api/registers/customers/decisions": [],
    "GET /api/registers": [],
    "POST /api/registers/customers/decisions": ({ body }: Asked) => ({
      ...(body as object),
      id: next++,
      actor: "ann",
      at: "2026-11-01T10:00:00Z",
      withdrawn_at: null,
      contradicts: [],
    }),
    "POST /api/registers/customers/review/leases": [],
    ...more,
  });
}

const decided = (asked: Asked[]) =>
  asked
    .filter(({ method, path }) => method === "POST" && path.endsWith("/decisions"))
    .map((call) => call.body as Record<string, unknown>);

// jsdom lays nothing out: the virtual list needs to believe in a height.
beforeEach(() => {
  vi.spyOn(HTMLElement.prototype, "clientHeight", "get").mockReturnValue(600);
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(300);
});

describe("the review desk", () => {
  it("shows the first pair with the sentence why, and how many wait", async () => {
    desk();
    show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    expect(await screen.findByText("Pair 1 is in doubt.")).toBeTruthy();
    expect(screen.getByText("3 wait")).toBeTruthy();
  });

  it("decides by key, goes on to the next pair at once, and shortens the queue", async () => {
    const asked = desk();
    const { router } = show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("s");
    expect(await screen.findByText("Pair 3 is in doubt.")).toBeTruthy();
    expect(router.state.location.pathname).toBe("/r/customers/review/3/4");
    expect(screen.getByText("2 wait")).toBeTruthy();
    await userEvent.keyboard("d");
    await screen.findByText("Pair 5 is in doubt.");
    expect(decided(asked).map(({ left_id, verdict }) => [left_id, verdict])).toEqual([
      [1, "same"],
      [3, "different"],
    ]);
  });

  it("does not decide one pair twice when a key is held down", async () => {
    const asked = desk();
    show(<ReviewPage />, { path: "/r/customers/review/5/6", pattern: PATTERN });
    await screen.findByText("Pair 5 is in doubt.");
    for (let press = 0; press < 3; press++) window.dispatchEvent(new KeyboardEvent("keydown", { key: "l" }));
    await waitFor(() => expect(decided(asked).length).toBeGreaterThan(0));
    expect(decided(asked).filter(({ left_id }) => left_id === 5)).toHaveLength(1);
  });

  it("takes one's latest decision back, once it is kept, and brings its pair up", async () => {
    const order: string[] = [];
    desk({
      "POST /api/registers/customers/decisions": ({ body }: Asked) => {
        order.push("decide");
        return { ...(body as object), id: 44, contradicts: [] };
      },
      "POST /api/registers/customers/review/take-back": () => {
        order.push("take back");
        return { what: "pair", verdict: "same", count: 1, left_id: 1, right_id: 2 };
      },
    });
    const { router } = show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("su");
    await waitFor(() => expect(order).toEqual(["decide", "take back"]));
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/review/1/2"));
  });

  it("keeps a remark with the verdict, and letters typed into it decide nothing", async () => {
    const asked = desk();
    show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("r");
    await userEvent.type(await screen.findByLabelText("Remark"), "sold last year");
    expect(decided(asked)).toEqual([]);
    await userEvent.click(within(screen.getByRole("dialog")).getByRole("button", { name: "Different" }));
    await waitFor(() =>
      expect(decided(asked)[0]).toMatchObject({ verdict: "different", remark: "sold last year", left_id: 1 }),
    );
  });

  it("steps with the arrows and stops at both ends", async () => {
    desk();
    show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("{ArrowUp}");
    await screen.findByText("Pair 1 is in doubt.");
    await userEvent.keyboard("{ArrowDown}");
    await screen.findByText("Pair 3 is in doubt.");
    await userEvent.keyboard("{ArrowDown}");
    await screen.findByText("Pair 5 is in doubt.");
    await userEvent.keyboard("{ArrowDown}");
    expect(await screen.findByText("Pair 5 is in doubt.")).toBeTruthy();
  });

  it("says what to do when nothing is in doubt", async () => {
    serve({
      "GET /api/registers/customers/review": { waiting: 0, put_off: 0, behind: "", doubts: [] },
      "GET /api/registers/customers/review/kinds": [],
      "GET /api/registers/customers/decisions": [],
    });
    show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    expect(await screen.findByText("Nothing is in doubt.")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Preview the merge" }).getAttribute("href")).toBe(
      "/r/customers/golden/merge",
    );
  });

  it("fetches the next page before the last pair, and never calls nothing in doubt while something waits", async () => {
    const pageOf = (first: number) =>
      [0, 2].map((more) => ({ ...queued[0], left_id: first + more, right_id: first + more + 1 }));
    const pages: Record<string, unknown> = {
      "": { waiting: 4, put_off: 0, behind: "open 1 2", doubts: pageOf(1) },
      "open 1 2": { waiting: 4, put_off: 0, behind: "", doubts: pageOf(11) },
    };
    const asked = desk({
      "GET /api/registers/customers/review": ({ path }: Asked) =>
        pages[new URL(path, location.origin).searchParams.get("after") ?? ""],
      ...Object.fromEntries(
        [1, 3, 11, 13].map((id) => [`GET /api/registers/customers/pairs/${id}/${id + 1}`, faced(id)]),
      ),
    });
    show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    for (const id of [1, 3, 11]) {
      await screen.findByText(`Pair ${id} is in doubt.`);
      await userEvent.keyboard("s");
    }
    await screen.findByText("Pair 13 is in doubt.");
    pages[""] = { waiting: 1, put_off: 0, behind: "", doubts: [{ ...queued[0], left_id: 5, right_id: 6 }] };
    await userEvent.keyboard("d");
    expect(await screen.findByText("Pair 5 is in doubt.")).toBeTruthy();
    expect(screen.queryByText("Nothing is in doubt.")).toBeNull();
    expect(decided(asked)).toHaveLength(4);
  });

  it("says what changed since a pair was decided", async () => {
    const decision = {
      id: 7,
      left_id: 1,
      right_id: 2,
      verdict: "same",
      remark: "",
      actor: "ann",
      at: "2026-11-01T10:00:00Z",
    };
    desk({
      "GET /api/registers/customers/pairs/1/2": {
        ...faced(1),
        decision: { ...decision, withdrawn_at: null, withdrawn_by: null },
        changed: [{ field: "phone", side: "left", was: "+441632960001", now: "" }],
      },
    });
    show(<ReviewPage />, { path: "/r/customers/review", pattern: PATTERN });
    const told = within(await screen.findByRole("region", { name: "Changed since decided" }));
    expect(told.getByText("+441632960001 → nothing")).toBeTruthy();
    expect(told.getByText(/still in force/)).toBeTruthy();
  });

  it("tells when a pair is no longer there", async () => {
    desk({ "GET /api/registers/customers/pairs/8/9": 404 });
    show(<ReviewPage />, { path: "/r/customers/review/8/9", pattern: PATTERN });
    expect((await screen.findByRole("alert")).textContent).toContain("problem 404");
  });
});

describe("the evidence scale", () => {
  it("says the sum and how likely the pair is the same, if the run kept it", () => {
    show(<EvidenceScale pair={pair} />);
    expect(screen.getByText("sum +4.2, 95 % likely the same")).toBeTruthy();
    show(<EvidenceScale pair={{ ...pair, probability: null }} />);
    expect(screen.getByText("sum +4.2")).toBeTruthy();
  });
});

describe("the face sheet", () => {
  it("shows what related records bring, and marks what both sides have", () => {
    const brought = [
      { label: "E-mail of Contacts", left: ["ann@tern.example"], right: ["ann@tern.example", "bo@tern.example"] },
    ];
    show(<FaceSheet pair={{ ...pair, related: brought }} showTidy={false} />);
    expect(screen.getByRole("rowheader", { name: "E-mail of Contacts" })).toBeTruthy();
    expect(screen.getAllByText("ann@tern.example").every((cell) => cell.className.includes("font-semibold"))).toBe(
      true,
    );
    expect(screen.getByText("bo@tern.example").className).toContain("text-soft");
  });

  it("marks what is only on one side and shows one seam per comparison", () => {
    const { container } = show(<FaceSheet pair={pair} showTidy={false} />);
    expect([...container.querySelectorAll("mark")].map((mark) => mark.textContent)).toContain(" Ltd");
    expect(screen.getByText("equal, +7.2 bits")).toBeTruthy();
    expect(screen.getByText("other street, −3.0 bits")).toBeTruthy();
    expect(container.querySelectorAll("tbody tr")).toHaveLength(3);
  });

  it("marks faintly what is only written otherwise", () => {
    const country = [{ name: "address.country", label: "Country" }];
    const one = { ...pair.left, fields: { "address.country": "DK" }, tidy: { "address.country": "DK" } };
    const other = { ...pair.right, fields: { "address.country": "Denmark" }, tidy: { "address.country": "DK" } };
    show(<FaceSheet pair={{ ...pair, fields: country, left: one, right: other }} showTidy={false} />);
    const marks = [...document.querySelectorAll("mark")];
    expect(marks.length).toBeGreaterThan(0);
    expect(marks.every((mark) => mark.className.includes("decoration-dotted"))).toBe(true);
  });

  it("shows tidy values on request, without what is only a key", () => {
    const { container } = show(<FaceSheet pair={pair} showTidy />);
    expect(container.querySelectorAll("tbody tr")).toHaveLength(1);
    expect(screen.getAllByText("skua rope works")).toHaveLength(2);
  });
});

describe("the seam", () => {
  const lines = (bits: number, level: string) =>
    show(<Seam bits={bits} level={level} />).container.querySelectorAll("line").length;

  it("has more stitches the stronger the agreement, and none where values differ or are missing", () => {
    expect(lines(2, "close")).toBe(1);
    expect(lines(8, "equal")).toBe(4);
    expect(lines(40, "equal")).toBe(6);
    expect(lines(-4, "different")).toBe(0);
    expect(lines(0, "missing")).toBe(0);
  });

  it("is not drawn where nothing is compared", () => {
    expect(show(<Seam bits={undefined} level={undefined} />).container.querySelector("svg")).toBeNull();
  });
});

import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { byDay } from "../../domain/watch";
import { serve, show } from "../../tests/render";
import { WatchPage } from ".";

const WATCH = {
  days: [
    { actor: "Maren", day: "2026-11-27", same: 3, different: 1, later: 0 },
    { actor: "Sunniva", day: "2026-11-27", same: 1, different: 0, later: 2 },
  ],
  paces: [{ actor: "Maren", pauses: 40, median_s: 25 }],
  agreement: { pairs: 12, equal: 11, kappa: 0.812, margin: 0.21 },
  waiting: 53,
  put_off: 2,
  asked: [{ name: "Maren", waiting: 4, late: 1, oldest: "2026-11-01T10:00:00Z" }],
  proposals: [{ state: "waiting", count: 3, oldest: "2026-11-20T10:00:00Z" }],
};

describe("how the work goes", () => {
  it("tells figures with their base, and leads to what waits for a person", async () => {
    const asked = serve({
      "GET /api/registers/customers/watch": WATCH,
      "GET /api/registers/customers/work": [],
    });
    const { router } = show(<WatchPage />, { path: "/r/customers/watch", pattern: "/r/:slug/watch" });
    expect(await screen.findByText("53 doubts wait, 2 put off.")).toBeTruthy();
    const days = within(screen.getByRole("region", { name: "Decisions per day" }));
    expect(days.getAllByRole("row")).toHaveLength(3);
    expect(days.getByRole("img", { name: /over 14 days/ })).toBeTruthy();
    const signing = within(screen.getByRole("region", { name: "Sign-off" }));
    expect(
      signing
        .getAllByRole("cell")
        .slice(0, 2)
        .map((cell) => cell.textContent),
    ).toEqual(["Waiting for a second yes", "3"]);
    expect(screen.getByText(/11 of 12 pairs/).textContent).toContain("kappa 0.81 ± 0.21");
    const pace = within(screen.getByRole("region", { name: "How long a decision takes" }));
    expect(pace.getAllByRole("cell").map((cell) => cell.textContent)).toEqual(["Maren", "25 s", "40"]);
    expect(screen.getByRole("link", { name: "Maren" }).getAttribute("href")).toBe("/r/customers/review?asked=Maren");
    await userEvent.click(screen.getByRole("button", { name: /Over/ }));
    await userEvent.click(await screen.findByRole("option", { name: "30 days" }));
    expect(router.state.location.search).toBe("?days=30");
    expect(asked.filter((call) => call.path.includes("watch")).at(-1)?.path).toMatch(/days=30&zone=/);
  });

  it("says what cannot be told yet", async () => {
    const nothing = {
      ...WATCH,
      days: [],
      paces: [],
      asked: [],
      proposals: [],
      agreement: { ...WATCH.agreement, pairs: 0 },
    };
    serve({ "GET /api/registers/customers/watch": nothing, "GET /api/registers/customers/work": [] });
    show(<WatchPage />, { path: "/r/customers/watch", pattern: "/r/:slug/watch" });
    expect(await screen.findByText("Nobody decided anything in 14 days.")).toBeTruthy();
    expect(screen.getByText(/Too little was decided/)).toBeTruthy();
    expect(screen.getByText(/No pair was judged by two people/)).toBeTruthy();
  });

  it("counts every day, also those on which nobody decided", () => {
    const today = new Date(2026, 11, 1, 9);
    const sums = byDay([{ actor: "a", day: "2026-11-30", same: 2, different: 1, later: 1 }], 3, today);
    expect(sums.map(({ day, total }) => [day, total])).toEqual([
      ["2026-11-29", 0],
      ["2026-11-30", 4],
      ["2026-12-01", 0],
    ]);
  });
});

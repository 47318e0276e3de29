import { act, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { PlanPage } from "../features/plan";
import { TidyPage } from "../features/tidy";
import { TodayPage } from "../features/today";
import { job, layout, register } from "../tests/examples";
import { serve, show } from "../tests/render";
import { notify } from "../ui";
import { Frame } from "./Frame";

const SUPPLIERS = { ...register, slug: "suppliers", name: "Suppliers" };

function frame(jobs: unknown[] = [], more: Record<string, unknown> = {}) {
  const asked = serve({ "GET /api/registers": [register, SUPPLIERS], "GET /api/jobs": { jobs }, ...more });
  return { asked, ...show(<Frame />, { path: "/r/customers/review", pattern: "/r/:slug/*" }) };
}

describe("the frame", () => {
  it("shows the stages in the order of the work with what waits there", async () => {
    frame();
    const stages = within(await screen.findByRole("navigation", { name: "Stages of the work" })).getAllByRole("link");
    expect(stages.map((link) => link.getAttribute("aria-label"))).toEqual([
      "Bring in: 5 deliveries",
      "Tidy: 2\u202f947 records",
      "Plan: the latest run shows the present state",
      "Review: 12 pairs in doubt",
      "Golden: 0 golden records",
      "Send out: nothing to send yet",
    ]);
    expect(stages[3]?.getAttribute("aria-current")).toBe("page");
  });

  it("keeps what is done under the name that a person gives, in letters of any kind", async () => {
    const { asked } = frame();
    await userEvent.click(await screen.findByRole("button", { name: /You gave no name/ }));
    await userEvent.type(await screen.findByLabelText("Name"), "Zoë");
    await userEvent.click(screen.getByRole("button", { name: "Work as Zoë" }));
    expect(await screen.findByRole("button", { name: /You work as Zoë/ })).toBeTruthy();
    await waitFor(() => expect(asked.at(-1)?.actor).toBe(encodeURIComponent("Zoë")));
    await userEvent.click(screen.getByRole("button", { name: /You work as Zoë/ }));
    await userEvent.clear(await screen.findByLabelText("Name"));
    await userEvent.click(screen.getByRole("button", { name: "Work as the server's name" }));
    await waitFor(() => expect(asked.at(-1)?.actor).toBeNull());
  });

  it("shows running work with its progress and cancels it", async () => {
    const { asked } = frame([job()], { "POST /api/jobs/1/cancel": job({ status: "cancelled" }) });
    expect(await screen.findByText("compare 25 %, 25 a second, about 30 s left")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    await waitFor(() => expect(asked.some(({ path }) => path === "/api/jobs/1/cancel")).toBe(true));
  });

  it("says how the last work ended", async () => {
    frame([job({ status: "failed", message: "There are no records.", ended_at: "2026-11-01T10:01:00Z" })]);
    expect((await screen.findByText(/Run the match: failed/)).textContent).toContain("There are no records.");
  });

  it("reaches screens by typing, and closes with Escape", async () => {
    const { router } = frame();
    await screen.findByRole("navigation");
    await userEvent.keyboard("{Control>}k{/Control}");
    await userEvent.type(await screen.findByRole("combobox"), "suppliers golden");
    await userEvent.click(await screen.findByRole("option", { name: /Suppliers: Golden/ }));
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/suppliers/golden"));
    expect(screen.queryByRole("dialog")).toBeNull();
  });

  it("takes no draft of one register along to the same screen of another", async () => {
    const plan = (same: number) => ({
      version: 1,
      yaml: `title: x\nlimits: {same: ${same}, unsure: 0}\n`,
      plan: { limits: {} },
      keys: [],
      versions: [],
    });
    serve({
      "GET /api/registers": [register, SUPPLIERS],
      "GET /api/jobs": { jobs: [] },
      "GET /api/registers/customers/plan": plan(4),
      "GET /api/registers/suppliers/plan": plan(5),
      "GET /api/registers/customers/plan/drafts": [],
      "GET /api/registers/suppliers/plan/drafts": [],
    });
    const { router } = show(<PlanPage />, { path: "/r/customers/plan", pattern: "/r/:slug/plan", within: <Frame /> });
    const limit = async () => (await screen.findByLabelText<HTMLInputElement>("Same from, in bits")).value;
    await userEvent.type(await screen.findByLabelText("Same from, in bits"), "4{Enter}");
    expect(await limit()).toBe("44");
    await act(() => router.navigate("/r/suppliers/plan"));
    await waitFor(async () => expect(await limit()).toBe("5"));
  });

  it("lists the keys of the screen, and switches the theme for good", async () => {
    frame();
    await screen.findByRole("navigation");
    await userEvent.keyboard("?");
    expect(within(await screen.findByRole("dialog")).getByText("Go to a screen, a register, an action")).toBeTruthy();
    await userEvent.keyboard("{Escape}");
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    await userEvent.click(screen.getByRole("button", { name: "Switch between light and dark" }));
    expect(localStorage.getItem("theme")).toBe(document.documentElement.dataset.theme);
  });

  it("keeps trouble in sight until it is put away, other messages only for a while", async () => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    frame();
    act(() => {
      notify("All is well.");
      notify("The file is empty.", true);
    });
    expect(await screen.findByText("All is well.")).toBeTruthy();
    act(() => void vi.advanceTimersByTime(10_000));
    expect(screen.queryByText("All is well.")).toBeNull();
    vi.useRealTimers();
    await userEvent.click(
      within(screen.getByText("The file is empty.").parentElement as HTMLElement).getByRole("button"),
    );
    expect(screen.queryByText("The file is empty.")).toBeNull();
  });
});

describe("the first screen", () => {
  it("says of each register what comes next, in the order of the work", async () => {
    const { counts } = register;
    const registers = [
      { ...register, slug: "a", counts: { ...counts, drafts: 1 } },
      { ...register, slug: "b", counts: { ...counts, records: 0 } },
      { ...register, slug: "c", run_due: ["the plan changed since the last run"] },
      { ...register, slug: "d" },
      { ...register, slug: "e", counts: { ...counts, unsure_waiting: 0 } },
      { ...register, slug: "f", counts: { ...counts, unsure_waiting: 0, records_without_golden: 0 } },
    ];
    serve({ "GET /api/registers": registers, "GET /api/jobs": { jobs: [] } });
    show(<TodayPage />);
    const links = (await screen.findAllByRole("link")).filter((link) => link.textContent?.endsWith("→"));
    expect(links.map((link) => link.getAttribute("href"))).toEqual([
      "/r/a/bring-in",
      "/r/b/bring-in",
      "/r/c/plan",
      "/r/d/review",
      "/r/e/golden/merge",
      "/r/f/send-out",
    ]);
  });

  it("makes a register and goes there; a taken name is told in the dialog", async () => {
    let taken = true;
    serve({
      "GET /api/registers": [],
      "GET /api/jobs": { jobs: [] },
      "POST /api/registers": () => (taken ? 422 : register),
    });
    const { router } = show(<TodayPage />, { pattern: "/" });
    await userEvent.click(await screen.findByRole("button", { name: "Make the first register" }));
    const dialog = within(await screen.findByRole("dialog"));
    await userEvent.type(dialog.getByLabelText("Name"), "Customers");
    await userEvent.click(dialog.getByRole("button", { name: "Make register" }));
    await dialog.findByRole("alert").catch(() => undefined);
    taken = false;
    await userEvent.click(dialog.getByRole("button", { name: "Make register" }));
    await waitFor(() => expect(router.state.location.pathname).toBe("/r/customers/bring-in"));
  });
});

describe("tidy", () => {
  it("shows tidy values below delivered ones and keeps the filter in the address", async () => {
    const record = {
      id: 1,
      source: "till",
      source_key: "7",
      delivered: {},
      fields: { name: "SKUA & CO LTD" },
      tidy: { name: "skua", "name.legal_form": "limited" },
    };
    const asked = serve({
      "GET /api/registers/customers/records": {
        total: 250,
        at_least: false,
        before: "",
        behind: "next-page",
        labels: { till: { "address.line#2": "delivery" } },
        tidy_fields: [],
        records: [record],
      },
      "GET /api/registers/customers/sources": [{ name: "till", trust_rank: 1, own_duplicates: true }],
      "GET /api/registers/customers/layout": layout,
    });
    const { router } = show(<TidyPage />, { path: "/r/customers/tidy", pattern: "/r/:slug/tidy" });
    expect(await screen.findByText("skua · limited")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Further" }));
    await waitFor(() => expect(asked.map(({ path }) => path).join()).toContain("cursor=next-page"));
    await userEvent.click(screen.getByRole("button", { name: /Source/ }));
    await userEvent.click(await screen.findByRole("option", { name: "till" }));
    await waitFor(() => expect(router.state.location.search).toBe("?source=till"));
  });
});

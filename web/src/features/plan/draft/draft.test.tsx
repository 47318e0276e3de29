import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { answers, BASE, plan, YAML } from "../../../tests/planExamples";
import { serve, show } from "../../../tests/render";
import { PlanPage } from "../index";

const draft = (id: number, title: string, yaml: string, at: string, more: Record<string, unknown> = {}) => ({
  id,
  title,
  yaml,
  based_on: 1,
  version: 3,
  actor: "ann",
  changed_by: "bo",
  changed_at: at,
  ...more,
});
const older = draft(4, "Older", `${YAML}# older\n`, "2026-11-01T10:00:00Z");
const newer = draft(5, "Newer", `${YAML}# newer\n`, "2026-11-02T10:00:00Z");

function open(more: Record<string, unknown> = {}, path = "/r/customers/plan") {
  const asked = serve({ ...answers, [`GET ${BASE}/plan/drafts`]: [older, newer], ...more });
  const { router } = show(<PlanPage />, { path, pattern: "/r/:slug/plan" });
  const last = (method: string, address: string) =>
    asked.findLast((one) => one.method === method && one.path === address)?.body as Record<string, unknown> | undefined;
  return { asked, last, router };
}

const limit = () => screen.findByLabelText<HTMLInputElement>("Same from, in bits");

async function typed(value: string) {
  const input = await limit();
  await userEvent.clear(input);
  await userEvent.type(input, `${value}{Enter}`);
}

async function textShows(part: string) {
  await userEvent.click(screen.getByRole("button", { name: "Text" }));
  const text = await screen.findByRole("textbox", { name: /plan/i });
  await waitFor(() => expect(text.textContent).toContain(part));
}

describe("drafts", () => {
  it("offers the draft that was changed last, and goes on with it at its address", async () => {
    const { router } = open();
    expect(await screen.findByText(/Version 2, in force/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Go on with “Newer”" }));
    await waitFor(() => expect(router.state.location.search).toContain("draft=5"));
    expect(screen.queryByRole("button", { name: /Go on with/ })).toBeNull();
    await textShows("# newer");
  });

  it("opens a draft by its address", async () => {
    open({}, "/r/customers/plan?draft=4");
    expect(await screen.findByText("Older")).toBeTruthy();
    await textShows("# older");
  });

  it("keeps every change a moment later, the first as a new draft, then over it", async () => {
    const made = { ...newer, id: 9, version: 1 };
    const { last } = open({
      [`GET ${BASE}/plan/drafts`]: [],
      [`POST ${BASE}/plan/drafts`]: made,
      [`PUT ${BASE}/plan/drafts/9`]: { ...made, version: 2 },
    });
    await typed("3");
    await waitFor(() => expect(last("POST", `${BASE}/plan/drafts`)).toMatchObject({ title: "Draft", based_on: 2 }));
    expect(await screen.findByText(/, kept/)).toBeTruthy();
    await typed("2");
    await waitFor(() => expect(last("PUT", `${BASE}/plan/drafts/9`)).toMatchObject({ seen_version: 1 }));
    expect(last("PUT", `${BASE}/plan/drafts/9`)?.yaml).toContain("same: 2");
  });

  it("throws a draft away, and shows the plan in force again", async () => {
    const { asked } = open({ [`DELETE ${BASE}/plan/drafts/5`]: null }, "/r/customers/plan?draft=5");
    await screen.findByText("Newer");
    await userEvent.click(screen.getByRole("button", { name: "Throw away" }));
    await waitFor(() =>
      expect(asked.some(({ method, path }) => method === "DELETE" && path.endsWith("/5"))).toBe(true),
    );
    expect(await screen.findByText(/Version 2, in force/)).toBeTruthy();
    expect((await limit()).value).toBe("4");
  });

  it("says that what was typed could not be kept, and keeps it on the screen", async () => {
    open({
      [`GET ${BASE}/plan/drafts`]: [],
      [`POST ${BASE}/plan/drafts`]: { status: 507, detail: "The disk is full." },
    });
    await typed("3");
    expect(await screen.findByRole("alert")).toBeTruthy();
    expect(screen.getByRole("alert").textContent).toContain("The disk is full.");
    expect((await limit()).value).toBe("3");
  });
});

describe("opening another plan", () => {
  const dialog = async () => {
    await userEvent.click(await screen.findByRole("button", { name: "Open…" }));
    return within(await screen.findByRole("dialog"));
  };

  it("lists drafts, ready-made plans, versions, and proposes one from the data", async () => {
    open({ [`GET ${BASE}/plan/proposal`]: { yaml: `${YAML}# 98 % hold it\n`, reasons: [] } });
    const list = await dialog();
    for (const name of ["Older", "Newer", "Cautious", "Version 2, in force", "Version 1"])
      expect(await list.findByText(name)).toBeTruthy();
    await userEvent.click(list.getByRole("button", { name: /Propose a plan from my data/ }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(await screen.findByText("Proposed from the data")).toBeTruthy();
    await textShows("# 98 % hold it");
  });

  it("lays an earlier version on the bench, to be put in force again", async () => {
    const { last } = open({
      [`GET ${BASE}/plan/versions/1`]: {
        version: 1,
        yaml: `${YAML}# first\n`,
        actor: "bo",
        note: "",
        at: "2026-10-01T10:00:00Z",
      },
      [`PUT ${BASE}/plan`]: { ...plan, version: 3 },
    });
    const list = await dialog();
    await userEvent.click(list.getByRole("button", { name: /^Version 1/ }));
    expect(await screen.findByText("Version 1 again")).toBeTruthy();
    await userEvent.click(await screen.findByRole("button", { name: "Put in force…" }));
    const force = within(await screen.findByRole("dialog"));
    await userEvent.type(force.getByRole("textbox"), "back to the first{Enter}");
    await waitFor(() =>
      expect(last("PUT", `${BASE}/plan`)).toMatchObject({ seen_version: 2, note: "back to the first" }),
    );
    expect(last("PUT", `${BASE}/plan`)?.yaml).toContain("# first");
  });

  it("keeps no draft of what was put in force, though the page has not heard of it yet", async () => {
    const text = `${YAML}# newer\n`;
    const { asked } = open(
      {
        [`PUT ${BASE}/plan`]: { ...plan, version: 3, yaml: text },
        [`DELETE ${BASE}/plan/drafts/5`]: null,
      },
      "/r/customers/plan?draft=5",
    );
    await userEvent.click(await screen.findByRole("button", { name: "Put in force…" }));
    const force = within(await screen.findByRole("dialog"));
    await userEvent.click(force.getByRole("button", { name: "Put in force" }));
    await waitFor(() => expect(asked.some(({ method }) => method === "DELETE")).toBe(true));
    await new Promise((done) => setTimeout(done, 900));
    expect(asked.some(({ method, path }) => method === "POST" && path === `${BASE}/plan/drafts`)).toBe(false);
  });

  it("says why a proposal cannot be made", async () => {
    open({ [`GET ${BASE}/plan/proposal`]: { status: 409, detail: "There are no records yet." } });
    const list = await dialog();
    await userEvent.click(list.getByRole("button", { name: /Propose a plan/ }));
    // The dialog stays, so that another plan may be chosen.
    expect(await screen.findByRole("dialog")).toBeTruthy();
  });
});

describe("the difference", () => {
  const change = { part: "limits, same", before: "4", after: "3", sentence: "limits, same: 4 → 3." };

  it("is told in words against the version in force", async () => {
    const { last } = open({ [`POST ${BASE}/plan/difference`]: [change] });
    await userEvent.click(await screen.findByRole("button", { name: "Against version 2" }));
    expect(await screen.findByText(/limits, same/)).toBeTruthy();
    expect(last("POST", `${BASE}/plan/difference`)).toMatchObject({ yaml: YAML, against: 2 });
  });

  it("says so where there is none", async () => {
    open({ [`POST ${BASE}/plan/difference`]: [] });
    await userEvent.click(await screen.findByRole("button", { name: "Against version 2" }));
    await waitFor(() => expect(document.body.textContent).toContain("It says the same as version 2."));
  });
});

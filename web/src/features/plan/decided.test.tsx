import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { answers, BASE, bench, border, plan, YAML } from "../../tests/planExamples";
import { serve, show } from "../../tests/render";
import { PlanPage } from "./index";

const BENCH = `${BASE}/bench`;
const estimate = (value: number, low: number, high: number) => ({ value, low, high });
const quality = {
  precision: estimate(0.999, 0.955, 1),
  recall: estimate(0.964, 0.886, 0.975),
  f1: estimate(0.98, 0.932, 0.987),
};
const measured = {
  drawn: 60,
  decided: 58,
  known: 12,
  needed: 1285,
  outside_of_blocks: 3,
  drawn_at: "2026-11-20T10:00:00Z",
  drawn_by: "ann",
  strata: [
    { odds_from: 0, pairs: 900, drawn: 40, decided: 39, same: 38, drawn_from: true },
    { odds_from: -8, pairs: 400, drawn: 20, decided: 19, same: 1, drawn_from: true },
    { odds_from: -20, pairs: 9000, drawn: 0, decided: 0, same: 0, drawn_from: false },
  ],
  own: { limit: 4, quality },
  f1_gained: estimate(0.0074, 0.0011, 0.0126),
  against_version: 2,
  along: [2, 4, 6].map((limit) => ({ limit, quality })),
  outside: {
    records: 3000,
    drawn: 400,
    looked_at: 1_120_000,
    found: 7,
    decided: 2,
    same: 1,
    missed: estimate(12, 3, 31),
    drawn_at: "2026-11-20T10:00:00Z",
    drawn_by: "ann",
  },
};
const lesson = {
  decisions: 30,
  same: 13,
  by_condition: 4,
  against_conditions: 1,
  slope: 0.8,
  shift: 0.3,
  same_from: -0.38,
  unsure_from: -8,
  same_before: 4,
  unsure_before: -6,
  levels: [
    { comparison: "phone", level: "different", same: 2, different: 9, bits: -1.4 },
    { comparison: "name", level: "equal", same: 9, different: 1, bits: 0.7 },
  ],
  conditions: [
    { title: "another name", same: 8, different: 0, dropped: true },
    { title: "another year", same: 1, different: 4, dropped: false },
  ],
  held_out: {
    decisions: 30,
    right: { before: 0.66, after: 0.81, low: 0.046, high: 0.26, verdict: "better" },
    foreseen: { before: -0.6, after: -0.5, low: -0.02, high: 0.12, verdict: "not shown" },
  },
  yaml: "",
  edits: [
    { place: ["limits"], value: { same: -0.38, unsure: -8 } },
    { place: ["learning"], value: { decisions: 30 } },
    { place: ["comparisons", 1, "learned"], value: { different: -1.4 } },
  ],
};
const onePair = {
  tidy: [{ field: "name", label: "Name", left: "tern ropes", right: "tern rope" }],
  score: 5.2,
  verdict: "same",
  reason: "The phone is the same.",
  levels: [
    { name: "phone", label: "phone", level: "equal" },
    { name: "email", label: "e-mail", level: "missing" },
  ],
  evidence: [
    { field: "phone", label: "phone", level: "equal", bits: 9.1, sentence: "the phone is the same", veto: false },
  ],
  keys: [
    { key: "phone.end", left: ["960123"], right: ["960123"], shared: true },
    { key: "name|first 6", left: ["tern r"], right: [], shared: false },
  ],
  brought_by: ["phone.end"],
  lost_at: "nowhere",
  says: "A run over these records would bring them together.",
  by_register: false,
};

function open(more: Record<string, unknown> = {}) {
  const asked = serve({
    ...answers,
    [`POST ${BENCH}/measured`]: measured,
    [`POST ${BENCH}/sample`]: { drawn: 60 },
    [`POST ${BENCH}/sample/pairs`]: border.slice(0, 2),
    [`POST ${BENCH}/outside/pairs`]: border.slice(2),
    [`POST ${BENCH}/teaching`]: border,
    [`POST ${BENCH}/learned`]: lesson,
    [`POST ${BENCH}/unlearned`]: { yaml: YAML, edits: [{ place: ["learning"], value: null }] },
    [`POST ${BENCH}/pair`]: onePair,
    [`POST ${BENCH}/outside`]: null,
    [`GET ${BASE}/records`]: { records: [{ id: 5, source: "till", source_key: "5", fields: { name: "Tern" } }] },
    [`POST ${BASE}/decisions`]: { id: 1, next: null },
    ...more,
  });
  show(<PlanPage />, { path: "/r/customers/plan", pattern: "/r/:slug/plan" });
  /** What was sent last to an address. */
  return (method: string, path: string) => asked.findLast((one) => one.method === method && one.path === path)?.body;
}

const plain = (element: HTMLElement) => (element.textContent ?? "").replace(/\s+/g, " ");

const face = async (name: string) => userEvent.click(await screen.findByRole("button", { name }));

describe("measuring", () => {
  it("tells figures with their margins, what is gained, and how many more decisions it takes", async () => {
    open();
    await face("Measure");
    const pane = await screen.findByRole("region", { name: "How good the plan is" });
    expect(await within(pane).findByText("99.9 %")).toBeTruthy();
    expect(within(pane).getByText("88.6 % to 97.5 %")).toBeTruthy();
    expect(plain(pane)).toContain("By 58 fairly drawn decisions and 12 others. About 1 300 more decisions");
    expect(plain(pane)).toContain("F1 +0.7 % (+0.1 % to +1.3 %): better");
    await userEvent.click(within(pane).getByText("How it was drawn"));
    expect(within(pane).getByRole("row", { name: "from even on 900 40 39 38" })).toBeTruthy();
    expect(plain(pane)).toContain("from 1 to 260 on");
    expect(plain(pane)).toContain("too many to tell by a sample");
  });

  it("waits until the plan is matched without decisions", async () => {
    let asked = 0;
    open({
      [`POST ${BENCH}/measured`]: () => {
        asked += 1;
        return asked < 3 ? { status: 503, detail: "matched once without decisions" } : measured;
      },
    });
    await face("Measure");
    expect(await screen.findByText("99.9 %", {}, { timeout: 5000 })).toBeTruthy();
    expect(asked).toBe(3);
  });

  it("draws pairs and has them decided by key", async () => {
    const asked = open();
    await face("Measure");
    await userEvent.click(await screen.findByRole("button", { name: "Draw 60 more" }));
    expect(asked("POST", `${BENCH}/sample`)).toMatchObject({ many: 60, anew: false });
    const list = await screen.findByRole("list", { name: "Pairs to decide" });
    await userEvent.keyboard("s");
    await waitFor(() => expect(asked("POST", `${BASE}/decisions`)).toMatchObject({ left_id: 1, verdict: "same" }));
    expect(within(list).getByText("decided same")).toBeTruthy();
    await userEvent.keyboard("d");
    await waitFor(() => expect(asked("POST", `${BASE}/decisions`)).toMatchObject({ left_id: 3, verdict: "different" }));
    await userEvent.click(screen.getByRole("button", { name: "Back to the figures" }));
    expect(await screen.findByRole("region", { name: "How good the plan is" })).toBeTruthy();
  });

  it("does not show a decision as made that was refused", async () => {
    open({ [`POST ${BASE}/decisions`]: { status: 409, detail: "Somebody decided it meanwhile." } });
    await face("Measure");
    await userEvent.click(await screen.findByRole("button", { name: "Decide 2 drawn pairs" }));
    await screen.findByRole("list", { name: "Pairs to decide" });
    await userEvent.keyboard("s");
    await waitFor(() => expect(screen.queryByText("decided same")).toBeNull());
  });

  it("tells what blocking misses, and looks again", async () => {
    const asked = open();
    await face("Measure");
    const part = await screen.findByRole("region", { name: "Outside the blocks" });
    expect(plain(part)).toContain("400 of 3 000 records, drawn by chance");
    expect(plain(part)).toContain("about 12 true pairs in all (3 to 31)");
    expect(plain(part)).toContain("3 pairs decided the same are never compared.");
    await userEvent.click(within(part).getByRole("button", { name: "Look again, at other records" }));
    await waitFor(() => expect(asked("POST", `${BENCH}/outside`)).toMatchObject({ yaml: YAML }));
    await userEvent.click(within(part).getByRole("button", { name: "Decide 5 of these" }));
    expect(await screen.findByRole("list", { name: "Pairs to decide" })).toBeTruthy();
  });

  it("shows how far a look outside is, and stops it", async () => {
    const asked = open({
      [`GET ${BENCH}`]: { ...bench, running: true, stage: "look outside the blocks", done: 3, total: 4 },
      [`DELETE ${BENCH}/settled`]: null,
    });
    await face("Measure");
    const part = await screen.findByRole("region", { name: "Outside the blocks" });
    expect(plain(within(part).getByRole("status"))).toBe("Looking, 75 %");
    await userEvent.click(within(part).getByRole("button", { name: "Cancel" }));
    await waitFor(() => expect(asked("DELETE", `${BENCH}/settled`)).toBeDefined());
  });
});

describe("learning", () => {
  it("asks the pairs that teach most, and tells what is learned with what that is worth", async () => {
    open();
    await face("Learn");
    await userEvent.click(await screen.findByRole("button", { name: "Answer 30 pairs that teach most" }));
    expect(await screen.findByRole("list", { name: "Pairs that teach most" })).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "See what is learned" }));
    const pane = await screen.findByRole("region", { name: "Learning from decisions" });
    expect(await within(pane).findByText("30 decisions")).toBeTruthy();
    expect(plain(pane)).toContain("4 more are decided by a condition or veto, 1 of them otherwise");
    expect(plain(pane)).toContain("Right verdicts: 66.0 % before, 81.0 % after; gained +4.6 % to +26.0 %: better");
    expect(plain(pane)).toContain(
      "another name: 8 of 8 decided pairs that it alone holds back are the same. Left out.",
    );
    expect(plain(pane)).toContain(
      "another year: 1 of 5 decided pairs that it alone holds back are the same. It stays.",
    );
    expect(plain(pane)).toContain("Same from -0.38 bits (now 4)");
    expect(within(pane).getByRole("row", { name: "phone different 2 9 −1.4" })).toBeTruthy();
  });

  it("takes a lesson over into the draft, keeping its comments, and takes it back", async () => {
    open({ [`GET ${BASE}/plan`]: { ...plan, yaml: `# mine\n${YAML}` } });
    await face("Learn");
    await userEvent.click(await screen.findByRole("button", { name: "Take it over into the draft" }));
    await userEvent.click(screen.getByRole("button", { name: "Text" }));
    const text = await screen.findByRole("textbox", { name: /plan/i });
    await waitFor(() => expect(plain(text)).toContain("learned: {different: -1.4}"));
    expect(plain(text)).toContain("# mine");
    await userEvent.click(await screen.findByRole("button", { name: "Take back what was learned" }));
    await waitFor(() => expect(plain(text)).not.toContain("decisions: 30"));
  });

  it("weighs wrong pairs as it is told", async () => {
    const asked = open();
    await face("Learn");
    await userEvent.click(await screen.findByRole("button", { name: /What weighs more/ }));
    await userEvent.click(await screen.findByRole("option", { name: /16 missed ones/ }));
    await waitFor(() => expect(asked("POST", `${BENCH}/learned`)).toMatchObject({ wrong_weighs: 16 }));
  });

  it("says what to do where nothing is decided, and why too few say nothing", async () => {
    open({ [`POST ${BENCH}/learned`]: { ...lesson, decisions: 0, levels: [], held_out: null } });
    await face("Learn");
    expect(await screen.findByText(/Nothing is decided yet/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Take it over into the draft" })).toBeNull();
  });
});

describe("one pair", () => {
  it("shows levels, keys and tidy forms of what is typed", async () => {
    const asked = open();
    await face("One pair");
    await userEvent.type(await screen.findByRole("textbox", { name: "Name, left" }), "Tern Ropes");
    await userEvent.type(screen.getByRole("textbox", { name: "Name, right" }), "Tern Rope");
    expect(await screen.findByText(/A run over these records would bring them together/)).toBeTruthy();
    expect(asked("POST", `${BENCH}/pair`)).toMatchObject({ left: { record_id: null, fields: { name: "Tern Ropes" } } });
    expect(screen.getByRole("row", { name: "phone equal +9.1 the phone is the same" })).toBeTruthy();
    expect(screen.getByRole("row", { name: "phone.end 960123 960123 shared" })).toBeTruthy();
    expect(screen.getByRole("row", { name: "name|first 6 tern r none not shared" })).toBeTruthy();
    expect(screen.getByText(/Nothing to compare: e-mail/)).toBeTruthy();
    expect(screen.getByText(/how common values are is estimated/)).toBeTruthy();
  });

  it("takes a record that is found, until a value of it is changed", async () => {
    const asked = open();
    await face("One pair");
    await userEvent.type(await screen.findByRole("searchbox", { name: /left side/ }), "tern");
    await userEvent.click(await screen.findByRole("button", { name: /Tern till/ }));
    await userEvent.type(screen.getByRole("textbox", { name: "Name, right" }), "Tern");
    await waitFor(() => expect(asked("POST", `${BENCH}/pair`)).toMatchObject({ left: { record_id: 5 } }));
    await userEvent.type(screen.getByRole("textbox", { name: "Name, left" }), "s");
    await waitFor(() =>
      expect(asked("POST", `${BENCH}/pair`)).toMatchObject({ left: { record_id: null, fields: { name: "Terns" } } }),
    );
  });

  it("opens for a pair of a list", async () => {
    open();
    await face("At the border");
    await userEvent.click(await screen.findByRole("button", { name: "Why" }));
    expect(await screen.findByRole("region", { name: "One pair" })).toBeTruthy();
    expect((await screen.findAllByText("as it is kept")).length).toBe(2);
  });
});

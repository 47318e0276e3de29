import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { answers, BASE, bench, plan, YAML } from "../../tests/planExamples";
import { serve, show } from "../../tests/render";
import { PlanPage } from "./index";

function open(more: Record<string, unknown> = {}, path = "/r/customers/plan") {
  const asked = serve({
    ...answers,
    ...more,
  });
  show(<PlanPage />, { path, pattern: "/r/:slug/plan" });
  return asked;
}

const kept = (asked: ReturnType<typeof open>) =>
  asked.filter(({ method, path }) => method === "POST" && path === `${BASE}/plan/drafts`);

const keptText = (asked: ReturnType<typeof open>) => (kept(asked)[0]?.body as { yaml: string } | undefined)?.yaml;

describe("the plan bench", () => {
  it("shows what the plan does, and what a limit would do while it is moved by key", async () => {
    const asked = open();
    expect(await screen.findByText("pairs the same")).toBeTruthy();
    const figure = (name: string) =>
      screen.getByText(name).previousSibling?.textContent ??
      screen.getByText(name).parentElement?.querySelector("dd")?.textContent;
    expect(figure("pairs the same")).toBe("40");
    expect(figure("pairs in doubt")).toBe("4");
    expect(screen.getByText(/41 pairs the same/)).toBeTruthy();
    const slider = screen.getByRole("slider", { name: /same from/ });
    slider.focus();
    await userEvent.keyboard("{ArrowLeft}");
    const same = await screen.findByLabelText<HTMLInputElement>("Same from, in bits");
    expect(same.value).toBe("3.75");
    await waitFor(() => expect(kept(asked)[0]?.body).toMatchObject({ based_on: 2 }));
    expect(keptText(asked)).toContain("same: 3.75");
    await waitFor(() =>
      expect(
        asked.some(
          ({ path, body }) => path === `${BASE}/bench/tried` && (body as { yaml: string }).yaml.includes("3.75"),
        ),
      ).toBe(true),
    );
  });

  it("a limit follows the pointer, and is set where it is let go", async () => {
    open();
    const slider = await screen.findByRole("slider", { name: /in doubt from/ });
    const drawing = slider.closest("svg") as SVGSVGElement;
    drawing.getBoundingClientRect = () => ({ left: 0, width: 640, top: 0, height: 190 }) as DOMRect;
    fireEvent.pointerDown(slider, { clientX: 300 });
    fireEvent.pointerMove(drawing, { clientX: 400 });
    const followed = Number(slider.getAttribute("aria-valuenow"));
    expect(screen.getByLabelText<HTMLInputElement>("In doubt from, in bits").value).toBe("-6");
    fireEvent.pointerUp(drawing, { clientX: 400 });
    await waitFor(() =>
      expect(screen.getByLabelText<HTMLInputElement>("In doubt from, in bits").value).toBe(`${followed}`),
    );
  });

  it("walks along the pairs at the border and decides on the spot", async () => {
    const asked = open({ [`POST ${BASE}/decisions`]: {} });
    await userEvent.click(await screen.findByRole("button", { name: "3 gained" }));
    const list = await screen.findByRole("list", { name: "Pairs by score" });
    expect(within(list).getByText("limit 4")).toBeTruthy();
    expect(within(list).getAllByText("unsure → same")).toHaveLength(1);
    expect(asked.find(({ path }) => path === `${BASE}/bench/pairs`)?.body).toMatchObject({ shown: "gained", limit: 4 });
    await userEvent.keyboard("s");
    await waitFor(() =>
      expect(asked.find(({ path }) => path === `${BASE}/decisions`)?.body).toMatchObject({
        left_id: 1,
        right_id: 2,
        verdict: "same",
      }),
    );
    await userEvent.keyboard("{ArrowDown}d");
    await waitFor(() =>
      expect(asked.filter(({ path }) => path === `${BASE}/decisions`)[1]?.body).toMatchObject({
        left_id: 5,
        verdict: "different",
      }),
    );
  });

  it("edits the plan as a form: a comparison, a condition, a key, an order", async () => {
    open();
    await userEvent.click(await screen.findByRole("button", { name: /^phone phone/ }));
    const byHand = screen.getByLabelText("Bits of equal");
    await userEvent.type(byHand, "9{Enter}");
    await userEvent.click(screen.getByRole("button", { name: "Put first what catches most" }));
    await userEvent.click(screen.getByRole("button", { name: "Text" }));
    const text = await screen.findByLabelText("Match plan as YAML");
    expect(text.textContent).toContain("bits: { equal: 9 }".replaceAll(" }", "}").replaceAll("{ ", "{"));
    const written = text.textContent ?? "";
    expect(written.indexOf("same phone")).toBeLessThan(written.indexOf("other name"));
  });

  it("lists every problem with its line, and puts nothing in force that has one", async () => {
    open({
      [`POST ${BASE}/plan/check`]: [{ says: "no such field", line: 3, column: 3, last_line: 3, last_column: 7 }],
    });
    expect(await screen.findByText("line 3: no such field")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "No longer compare phone" }));
    const put = await screen.findByRole<HTMLButtonElement>("button", { name: "Put in force…" });
    // What was just changed is checked in a moment.
    await waitFor(() => expect(put.disabled).toBe(true));
  });

  it("puts a draft in force with the version it saw, and lays other plans on the bench", async () => {
    const asked = open({ [`PUT ${BASE}/plan`]: { ...plan, version: 3 } });
    await userEvent.click(await screen.findByRole("button", { name: "Open…" }));
    await userEvent.click(await screen.findByRole("button", { name: /^Cautious/ }));
    await waitFor(() => expect(kept(asked)[0]?.body).toMatchObject({ title: "Cautious" }));
    await userEvent.click(await screen.findByRole("button", { name: "Put in force…" }));
    await userEvent.type(screen.getByLabelText("What changes and why"), "safer");
    await userEvent.click(screen.getByRole("button", { name: "Put in force" }));
    await waitFor(() =>
      expect(asked.find(({ method, path }) => method === "PUT" && path === `${BASE}/plan`)?.body).toMatchObject({
        note: "safer",
        seen_version: 2,
      }),
    );
  });

  it("keeps what was typed when somebody else changed the draft", async () => {
    const draft = {
      id: 7,
      title: "Ours",
      yaml: YAML,
      based_on: 2,
      version: 4,
      actor: "bo",
      changed_by: "bo",
      changed_at: "2026-11-02T10:00:00Z",
    };
    const asked = open(
      { [`GET ${BASE}/plan/drafts`]: [draft], [`PUT ${BASE}/plan/drafts/7`]: 409 },
      "/r/customers/plan?draft=7",
    );
    const same = await screen.findByLabelText("Same from, in bits");
    await userEvent.clear(same);
    await userEvent.type(same, "8{Enter}");
    await userEvent.click(await screen.findByRole("button", { name: "Keep mine as another draft" }));
    await waitFor(() => expect(keptText(asked)).toContain("same: 8"));
  });

  it("warms a cold bench once, and says how far it is", async () => {
    const asked = open({ [`GET ${BASE}/bench`]: { ...bench, warm: false } });
    expect(await screen.findByText("The bench is being warmed.")).toBeTruthy();
    await waitFor(() => expect(asked.filter(({ path }) => path === `${BASE}/bench/settled`)).toHaveLength(1));
    await act(() => new Promise((resolve) => setTimeout(resolve, 50)));
    expect(asked.filter(({ path }) => path === `${BASE}/bench/settled`)).toHaveLength(1);
  });
});

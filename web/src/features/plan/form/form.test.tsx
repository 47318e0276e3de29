import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import { at, readPlan } from "../../../domain/planText";
import { register } from "../../../tests/examples";
import { BASE, words, YAML } from "../../../tests/planExamples";
import { serve } from "../../../tests/render";
import { PlanForm } from "./PlanForm";

/** The form over a text that follows it, as on the page; returns what the text is now. */
function open(text = YAML) {
  let now = text;
  const asked = serve({
    "GET /api/registers": [register, { ...register, slug: "contacts", name: "Contacts" }],
    [`POST ${BASE}/bench/blocks`]: [
      {
        value: "tern",
        records: 340,
        examples: [{ id: 1, source: "till", source_key: "1", fields: { name: "Tern Ropes" }, tidy: {} }],
      },
      { value: "skua", records: 3, examples: [] },
    ],
  });
  function Host() {
    const [yaml, setYaml] = useState(text);
    return (
      <PlanForm
        slug="customers"
        yaml={yaml}
        words={words as never}
        onChange={(next) => {
          now = next;
          setYaml(next);
        }}
      />
    );
  }
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Host />
    </QueryClientProvider>,
  );
  return { asked, text: () => now, part: (...place: (string | number)[]) => at<unknown>(readPlan(now), place) };
}

const section = (name: string) =>
  screen.getByText(name, { selector: "summary span" }).closest("details") as HTMLElement;

async function inside(name: string) {
  const found = section(name);
  if (!found.hasAttribute("open")) await userEvent.click(within(found).getByText(name));
  return within(found);
}

async function choose(list: HTMLElement, option: string) {
  await userEvent.click(list);
  await userEvent.click(await screen.findByRole("option", { name: option }));
}

describe("the plan as a form", () => {
  it("sets the scope of the plan, and says nothing where it is as usual", async () => {
    const plan = open();
    const scope = await inside("Scope");
    await choose(scope.getByRole("button", { name: /Incoming records meet/ }), "golden records");
    expect(plan.part("scope")).toEqual({ incoming: "golden records" });
    await userEvent.click(scope.getByRole("checkbox", { name: /one to one/ }));
    expect(plan.part("scope", "one_to_one")).toBe(true);
    await userEvent.type(scope.getByRole("spinbutton", { name: /Margin/ }), "2{Enter}");
    expect(plan.part("scope", "margin")).toBe(2);
    await userEvent.click(scope.getByRole("checkbox", { name: /one to one/ }));
    expect(plan.part("scope", "one_to_one")).toBeUndefined();
    await choose(scope.getByRole("button", { name: /Incoming records meet/ }), "anything");
    expect(plan.part("scope", "incoming")).toBeUndefined();
    expect(plan.text()).toContain("- phone.end");
  });

  it("filters one side by a field and its values", async () => {
    const plan = open();
    const scope = await inside("Scope");
    await userEvent.click(scope.getAllByRole("button", { name: "Filter…" })[0] as HTMLElement);
    expect(plan.part("scope", "one_side")).toEqual({ name: ["any"] });
    const values = scope.getByRole("textbox", { name: /Values of name/ });
    await userEvent.clear(values);
    await userEvent.type(values, "Tern, Skua,{Enter}");
    expect(plan.part("scope", "one_side", "name")).toEqual(["Tern", "Skua"]);
    await choose(scope.getByRole("button", { name: /Field of the last filter/ }), "email");
    expect(plan.part("scope", "one_side")).toEqual({ email: ["Tern", "Skua"] });
    await userEvent.click(scope.getByRole("button", { name: "No filter by email" }));
    expect(plan.part("scope", "one_side")).toBeUndefined();
  });

  it("takes values of records that refer here", async () => {
    const plan = open();
    const related = await inside("Related records");
    await choose(related.getByRole("button", { name: /Register that refers here/ }), "contacts");
    await userEvent.click(related.getByRole("button", { name: "Take its values" }));
    expect(plan.part("related")).toEqual([{ register: "contacts", by: "organisation", take: { email: "email" } }]);
    const by = related.getByRole("textbox", { name: "Reference field of contacts" });
    await userEvent.clear(by);
    await userEvent.type(by, "company{Enter}");
    expect(plan.part("related", 0, "by")).toBe("company");
    await choose(related.getByRole("button", { name: /Own field for contacts/ }), "phone");
    expect(plan.part("related", 0, "take")).toEqual({ phone: "email" });
    await userEvent.click(related.getByRole("button", { name: "No values of contacts" }));
    expect(plan.part("related")).toBeUndefined();
  });

  it("looks into the largest blocks of a key, those too large standing out", async () => {
    const plan = open();
    const blocking = await inside("Blocking");
    await userEvent.click(blocking.getByRole("button", { name: "largest blocks" }));
    const list = await blocking.findByRole("list", { name: "Largest blocks of phone.end" });
    expect(plan.asked.find(({ path }) => path.endsWith("/bench/blocks"))?.body).toEqual({ key: "phone.end" });
    expect(within(list).getByText("340 records").className).toContain("rust");
    expect(within(list).getByText("3 records").className).not.toContain("rust");
    expect(within(list).getByText("Tern Ropes")).toBeTruthy();
  });

  it("adds, changes and leaves out keys, and how large a block may be", async () => {
    const plan = open();
    const blocking = await inside("Blocking");
    await choose(blocking.getAllByRole("button", { name: /Field of a new key/ })[0] as HTMLElement, "name");
    await choose(blocking.getAllByRole("button", { name: /What is taken of it/ })[0] as HTMLElement, "first");
    await userEvent.click(blocking.getAllByRole("button", { name: "Add key" })[0] as HTMLElement);
    expect(plan.part("blocking", "keys")).toEqual(["phone.end", "name|first"]);
    await userEvent.click(blocking.getByRole("button", { name: "Leave out phone.end" }));
    expect(plan.part("blocking", "keys")).toEqual(["name|first"]);
    await userEvent.type(blocking.getByRole("spinbutton", { name: "Most records of a block" }), "80{Enter}");
    expect(plan.part("blocking", "most_records")).toBe(80);
    await choose(blocking.getByRole("button", { name: /Which sources meet/ }), "across sources");
    expect(plan.part("blocking", "scope")).toBe("across sources");
  });

  it("adds passes, each with what it says for itself, and goes back to what the plan says", async () => {
    const plan = open();
    const passes = await inside("Passes");
    await userEvent.click(passes.getByRole("button", { name: "Add a pass" }));
    await userEvent.click(passes.getByRole("button", { name: "Add a pass" }));
    expect(plan.part("passes")).toEqual([
      { title: "first", limits: { same: 4, unsure: -6 } },
      { title: "pass 2", works_on: "unmatched" },
    ]);
    await choose(passes.getByRole("button", { name: /Pass 2 works on/ }), "ambiguous");
    expect(plan.part("passes", 1, "works_on")).toBe("ambiguous");
    await userEvent.click(passes.getAllByRole("button", { name: "own scope" })[1] as HTMLElement);
    expect(plan.part("passes", 1, "scope")).toEqual({ incoming: "anything" });
    await userEvent.click(passes.getAllByRole("button", { name: "own further" })[1] as HTMLElement);
    expect(plan.part("passes", 1, "further")).toEqual([{ field: "name", using: "exact", label: "name" }]);
    await userEvent.click(passes.getByRole("button", { name: "scope as in the plan" }));
    expect(plan.part("passes", 1, "scope")).toBeUndefined();
    await userEvent.click(passes.getByRole("button", { name: "Leave out pass pass 2" }));
    expect(plan.part("passes", 1)).toBeUndefined();
  });

  it("sets weights by hand and what decisions taught, level by level", async () => {
    const plan = open();
    const comparisons = await inside("Comparisons");
    await userEvent.click(comparisons.getByRole("button", { name: /phone phone/ }));
    await userEvent.type(comparisons.getByRole("spinbutton", { name: "Bits of equal" }), "9{Enter}");
    expect(plan.part("comparisons", 1, "bits")).toEqual({ equal: 9 });
    await userEvent.type(comparisons.getByRole("spinbutton", { name: "Learned bits of different" }), "-1.5{Enter}");
    expect(plan.part("comparisons", 1, "learned")).toEqual({ different: -1.5 });
    await userEvent.clear(comparisons.getByRole("spinbutton", { name: "Bits of equal" }));
    await userEvent.keyboard("{Enter}");
    expect(plan.part("comparisons", 1, "bits")).toBeUndefined();
    await userEvent.type(comparisons.getByRole("spinbutton", { name: "Strength of phone" }), "0.5{Enter}");
    expect(plan.part("comparisons", 1, "strength")).toBe(0.5);
    await choose(comparisons.getByRole("button", { name: /Field to compare/ }), "email");
    await userEvent.click(comparisons.getByRole("button", { name: "Compare it" }));
    expect(plan.part("comparisons", 2)).toEqual({ field: "email", using: "exact", label: "e-mail" });
    await userEvent.click(comparisons.getByRole("button", { name: "No longer compare e-mail" }));
    expect(plan.part("comparisons", 2)).toBeUndefined();
  });

  it("sets vetoes, correlated groups, and what a score is worth", async () => {
    const plan = open();
    const vetoes = await inside("Vetoes");
    await userEvent.click(vetoes.getByRole("button", { name: "Add a veto" }));
    expect(plan.part("vetoes")).toEqual([{ field: "name", level: "different" }]);
    await choose(vetoes.getByRole("button", { name: /Veto of/ }), "phone");
    expect(plan.part("vetoes", 0, "field")).toBe("phone");
    const correlated = await inside("Correlated");
    await userEvent.click(correlated.getByRole("button", { name: "Add a group" }));
    expect(plan.part("correlated")).toEqual([{ fields: ["name", "phone"] }]);
    // A group of one is none: the last two stay.
    await userEvent.click(correlated.getByRole("checkbox", { name: "phone" }));
    expect(plan.part("correlated", 0, "fields")).toEqual(["name", "phone"]);
    const weights = await inside("Weights and clusters");
    await userEvent.type(weights.getByRole("spinbutton", { name: "Slope of scores" }), "0.8{Enter}");
    await userEvent.type(weights.getByRole("spinbutton", { name: "Shift of scores" }), "-1{Enter}");
    expect(plan.part("probabilities")).toEqual({ slope: 0.8, shift: -1 });
    await userEvent.click(weights.getByRole("checkbox", { name: /estimate weights/ }));
    expect(plan.part("weights", "estimate")).toBe(false);
  });

  it("says so where the text is no plan at the moment", () => {
    open("limits: [1");
    expect(screen.getByText(/not readable as a plan/)).toBeTruthy();
  });
});

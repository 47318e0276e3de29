import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { job, layout, register } from "../../../tests/examples";
import { type Asked, serve, show } from "../../../tests/render";
import { SurvivorshipPage } from "./SurvivorshipPage";

const BASE = "/api/registers/customers";
const step = (by: string, more = {}) => ({ by, field: "", sources: [], values: [], ...more });
const tried = {
  golden: 40,
  changed: 12,
  fields: [{ field: "phone", label: "Phone", changed: 12, samples: [{ key: "CU-00007", before: "1", after: "2" }] }],
};

function open(changed = tried) {
  const done = job({ id: 5, kind: "try rules", status: "done" });
  const asked = serve({
    [`GET ${BASE}/layout`]: layout,
    [`GET ${BASE}/sources`]: [{ name: "till", trust_rank: 1, own_duplicates: true, query: null }],
    [`GET ${BASE}/rules/earlier`]: [
      { entry_id: 3, summary: "Set the rules", actor: "ann", at: "2026-11-01T10:00:00Z" },
    ],
    [`POST ${BASE}/rules/earlier/3/put-back`]: register,
    [`POST ${BASE}/rules/try`]: done,
    [`GET ${BASE}/rules/tried/5`]: changed,
    [`PUT ${BASE}/rules`]: register,
    "GET /api/jobs": { jobs: [done] },
    "GET /api/registers": [register],
  });
  show(<SurvivorshipPage />, { path: "/r/customers/golden/rules", pattern: "/r/:slug/golden/rules" });
  return asked;
}

const bodyOf = (asked: Asked[], method: string, path: string) =>
  asked.find((call) => call.method === method && call.path === path)?.body;

async function choose(button: RegExp, option: RegExp) {
  await userEvent.click(await screen.findByRole("button", { name: button }));
  await userEvent.click(await screen.findByRole("option", { name: option }));
}

describe("the survivorship rules", () => {
  it("are chains whose ties go to the next rule, tried before they take effect", async () => {
    const asked = open();
    await choose(/^Phone, step 1: rule/, /newest/);
    await userEvent.click(screen.getByRole("button", { name: "Phone: add a step for ties" }));
    await choose(/^Phone, step 2: source first/, /till first/);
    await userEvent.click(screen.getByRole("button", { name: "Try it" }));
    expect(await screen.findByText("Phone: 12 values would change")).toBeTruthy();
    expect(screen.getByRole("link", { name: "CU-00007" }).getAttribute("href")).toBe("/r/customers/golden/CU-00007");
    const chain = [step("newest"), step("source rank", { sources: ["till"] })];
    expect(bodyOf(asked, "POST", `${BASE}/rules/try`)).toEqual({ rules: { phone: chain } });

    await userEvent.click(screen.getByRole("button", { name: "Set the rules" }));
    const dialog = within(await screen.findByRole("dialog"));
    const set = dialog.getByRole("button", { name: "Set the rules" });
    expect(set.hasAttribute("disabled")).toBe(true);
    await userEvent.type(dialog.getByLabelText("Type 12 to go on"), "12");
    await userEvent.click(set);
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", `${BASE}/rules`)).toEqual({ rules: { phone: chain }, seen_version: 4 }),
    );
  });

  it("may be set by a ready-made set, and small effects need no typing", async () => {
    const asked = open({ ...tried, changed: 1 });
    await userEvent.click(await screen.findByRole("button", { name: "freshest" }));
    await userEvent.click(screen.getByRole("button", { name: "Try it" }));
    await screen.findByText(/golden records would change/);
    await userEvent.click(screen.getByRole("button", { name: "Set the rules" }));
    await userEvent.click(within(await screen.findByRole("dialog")).getByRole("button", { name: "Set the rules" }));
    const chain = [step("newest"), step("consensus")];
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", `${BASE}/rules`)).toEqual({
        rules: { name: chain, address: chain, phone: chain },
        seen_version: 4,
      }),
    );
  });

  it("can be set untried only by typing so, and a change of the draft forgets the trial", async () => {
    const asked = open();
    await userEvent.click(await screen.findByRole("button", { name: "consensus" }));
    await userEvent.click(screen.getByRole("button", { name: "Try it" }));
    await screen.findByText(/golden records would change/);
    await choose(/^Form of the values/, /as delivered/);
    expect(screen.queryByText(/golden records would change/)).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Set the rules" }));
    const dialog = within(await screen.findByRole("dialog"));
    const set = dialog.getByRole("button", { name: "Set the rules" });
    await userEvent.type(dialog.getByRole("textbox"), "yes");
    expect(set.hasAttribute("disabled")).toBe(true);
    await userEvent.clear(dialog.getByRole("textbox"));
    await userEvent.type(dialog.getByRole("textbox"), "untried");
    await userEvent.click(set);
    await waitFor(() => expect(bodyOf(asked, "PUT", `${BASE}/rules`)).toMatchObject({ form: "as delivered" }));
  });

  it("lose a step again, and go back to what they are", async () => {
    open();
    await userEvent.click(await screen.findByRole("button", { name: "Name: add a step for ties" }));
    await userEvent.click(screen.getByRole("button", { name: "Name: remove step 1" }));
    expect(screen.getByRole("button", { name: /^Name, step 1: rule/ }).textContent).toContain("source rank");
    expect(screen.queryByRole("button", { name: "Name: remove step 1" })).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "As they are" }));
    expect(screen.getByRole("button", { name: /^Name, step 1: rule/ }).textContent).toContain("most common");
    expect(screen.getByRole("button", { name: "Try it" }).hasAttribute("disabled")).toBe(true);
  });

  it("ask for conditions where a rule needs them, and earlier ones can be put back", async () => {
    const asked = open();
    await choose(/^Name, step 1: rule/, /where/);
    await choose(/^Name, step 1: field/, /Town/);
    await userEvent.type(screen.getByLabelText("Name, step 1: values"), "Ribe, Esbjerg");
    await userEvent.tab();
    await userEvent.click(screen.getByRole("button", { name: "Try it" }));
    await waitFor(() =>
      expect(bodyOf(asked, "POST", `${BASE}/rules/try`)).toEqual({
        rules: { name: [step("where", { field: "address.city", values: ["Ribe", "Esbjerg"] })] },
      }),
    );
    expect(screen.getByLabelText<HTMLInputElement>("Name, step 1: values").value).toBe("Ribe, Esbjerg");
    await userEvent.click(screen.getByRole("button", { name: "Take back" }));
    await waitFor(() => expect(bodyOf(asked, "POST", `${BASE}/rules/earlier/3/put-back`)).toEqual({ seen_version: 4 }));
  });
});

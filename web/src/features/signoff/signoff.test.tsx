import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { register } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { SignOffPage } from ".";
import type { Proposal } from "./queries";
import { standing } from "./words";

const one: Proposal = {
  id: 7,
  slug: "customers",
  act: "pin",
  why: "the field is protected",
  summary: "Pinned Phone to '01632 960111': asked",
  shows: [{ what: "Phone", was: "01632 960000", will: "01632 960111" }],
  leads_to: "golden/C-7",
  proposed_by: "Maren Tollgate",
  proposed_at: "2026-11-27T10:00:00Z",
  state: "waiting",
  reason: "",
  returned_to: "",
  ended_by: "",
  ended_at: null,
  signatures: [],
  needed: 1,
  next_by: [],
  why_not_you: "",
};
const other: Proposal = {
  ...one,
  id: 9,
  act: "decide",
  summary: "Decided same: Tern and Tern",
  why_not_you: "You proposed this yourself.",
};
const groups = [
  { act: "pin", why: one.why, proposed_by: "Maren Tollgate", count: 1 },
  { act: "decide", why: one.why, proposed_by: "Maren Tollgate", count: 1 },
];
const PAGE = { proposals: [one, other], behind: null, groups, waiting: 2, sent_back: 0 };
const SIGNED = { proposal_id: 7, state: "carried out", reason: "" };

function open(more: Record<string, unknown> = {}) {
  const asked = serve({
    "GET /api/registers": [register],
    "GET /api/registers/customers/proposals": PAGE,
    "POST /api/proposals/7/sign": SIGNED,
    "POST /api/proposals/7/send-back": { ...SIGNED, state: "sent back" },
    ...more,
  });
  return { asked, ...show(<SignOffPage />, { path: "/r/customers/sign-off", pattern: "/r/:slug/sign-off" }) };
}

const posted = (asked: ReturnType<typeof open>["asked"]) => asked.filter((call) => call.method !== "GET");

describe("sign-off", () => {
  it("shows what a proposal will do, and signs it by key", async () => {
    const { asked } = open();
    const proposal = within(await screen.findByRole("article", { name: "Proposal" }));
    expect(proposal.getByRole("heading").textContent).toBe(one.summary);
    const cells = proposal.getAllByRole("cell").map((cell) => cell.textContent);
    expect(cells).toEqual(["01632 960000", "01632 960111"]);
    expect(proposal.getByRole("link").getAttribute("href")).toBe("/r/customers/golden/C-7");
    await userEvent.keyboard("y");
    await waitFor(() => expect(posted(asked).map((call) => call.path)).toEqual(["/api/proposals/7/sign"]));
  });

  it("does not offer what somebody may not sign, and says why", async () => {
    const { asked } = open();
    await screen.findByRole("article", { name: "Proposal" });
    await userEvent.keyboard("{ArrowDown}");
    expect(await screen.findByText("You proposed this yourself.")).toBeTruthy();
    expect(screen.queryByRole("button", { name: /Sign off/ })).toBeNull();
    await userEvent.keyboard("y");
    expect(posted(asked)).toEqual([]);
  });

  it("sends back with a reason only, to its maker or to everybody", async () => {
    const { asked } = open();
    await screen.findByRole("article", { name: "Proposal" });
    await userEvent.keyboard("b");
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByRole("button", { name: "Back to Maren Tollgate" })).toHaveProperty("disabled", true);
    await userEvent.type(dialog.getByRole("textbox", { name: "Reason" }), "another phone");
    await userEvent.click(dialog.getByRole("button", { name: "Let anybody take it up" }));
    await waitFor(() => expect(posted(asked)[0]?.body).toEqual({ reason: "another phone", to_all: true }));
  });

  it("signs many only as they were seen", async () => {
    const { asked } = open({
      "GET /api/registers/customers/proposals/many": { count: 1, not_yours: 1, sample: [one], seen: "abc" },
      "POST /api/registers/customers/proposals/many": {
        carried_out: 0,
        waiting: 0,
        overtaken: [`${one.summary}: gone`],
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Sign all of these" }));
    const dialog = within(await screen.findByRole("dialog"));
    expect((await dialog.findByText(/1 proposal that you may sign/)).textContent).toContain("1 more are not yours");
    await userEvent.click(dialog.getByRole("button", { name: "Sign 1 proposal" }));
    expect(await dialog.findByText(/could not be/)).toBeTruthy();
    expect(posted(asked)[0]?.body).toMatchObject({ seen: "abc", which: { state: "waiting" } });
  });

  it("sets what needs a second yes, and whose", async () => {
    const policy = {
      everything: false,
      merges_over: null,
      fields: [],
      bulk: false,
      deletions: false,
      plans: false,
      share: 0,
      levels: [[]],
      version: 4,
      approvers: ["Sunniva Orme"],
    };
    const { asked } = open({
      "GET /api/registers/customers/sign-off/policy": policy,
      "PUT /api/registers/customers/sign-off/policy": policy,
      "GET /api/registers/customers/layout": { fields: [{ name: "phone", label: "Phone", kind: "phone" }], own: [] },
    });
    await userEvent.click(await screen.findByRole("button", { name: "What needs a second yes" }));
    const dialog = within(await screen.findByRole("dialog"));
    await userEvent.click(await dialog.findByRole("checkbox", { name: /Deliveries taken back/ }));
    await userEvent.type(dialog.getByRole("spinbutton", { name: /Golden records of more/ }), "5");
    await userEvent.type(dialog.getByRole("spinbutton", { name: /drawn at random/ }), "10");
    await userEvent.click(dialog.getByRole("button", { name: "Another yes after that" }));
    await userEvent.click(dialog.getAllByRole("checkbox", { name: "Sunniva Orme" })[1] as HTMLElement);
    await userEvent.click(dialog.getByRole("button", { name: "Set this" }));
    await waitFor(() =>
      expect(posted(asked)[0]?.body).toMatchObject({
        deletions: true,
        merges_over: 5,
        share: 0.1,
        levels: [[], ["Sunniva Orme"]],
        seen_version: 4,
      }),
    );
  });

  it("says how each proposal stands", () => {
    const yes = { actor: "Una", at: "", remark: "" };
    expect(standing({ ...one, needed: 2, signatures: [yes], next_by: ["Sunniva"] })).toBe(
      "Waits for Sunniva: yes 2 of 2",
    );
    expect(standing({ ...one, state: "sent back", ended_by: "Una", reason: "no" })).toBe(
      "Una sent it back to everybody: no",
    );
    expect(standing({ ...one, state: "overtaken", reason: "changed" })).toBe("Overtaken: changed");
    expect(standing({ ...one, state: "carried out", ended_by: "Una" })).toBe("Signed off and carried out, last by Una");
  });
});

import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it, vi } from "vitest";
import { serve, show } from "../../../tests/render";
import { readState, USUAL, writeState } from "../queueState";
import { WorkDialog } from "./WorkDialog";

const PIECE = {
  id: 4,
  people: ["Maren"],
  says: "all pairs of till",
  share_from: 0,
  share_to: 100,
  due_on: "2026-11-01",
  remark: "before the audit",
  given_by: "Maren",
  given_at: "",
  waiting: 12,
  put_off: 0,
  proposed: 1,
  decided: 3,
  late: true,
};

function open() {
  const asked = serve({
    "GET /api/registers/customers/work": [PIECE],
    "GET /api/registers/customers/review/progress": { actor: "Maren", same: 0, different: 0, later: 0, waiting: 12 },
    "GET /api/registers/customers/review/people": ["Maren", "Sunniva"],
    "POST /api/registers/customers/work": [PIECE],
    "PUT /api/registers/customers/work/4": [PIECE],
    "DELETE /api/registers/customers/work/4": [],
  });
  const onLook = vi.fn();
  show(<WorkDialog slug="customers" state={{ ...USUAL, source: "till" }} onLook={onLook} onClose={() => {}} />);
  return { asked, onLook };
}

const sent = (asked: ReturnType<typeof open>["asked"]) => asked.filter((call) => call.method !== "GET");

it("tells how far work is and whether it is late, and opens it", async () => {
  const { onLook } = open();
  const table = within(await screen.findByRole("region", { name: "What is given" }));
  const cells = table.getAllByRole("cell").map((cell) => cell.textContent);
  expect(cells.slice(0, 5)).toEqual(["Maren", "all pairs of tillbefore the audit", "12", "4", "2026-11-01, late"]);
  await userEvent.click(table.getByRole("button", { name: "Look" }));
  expect(onLook).toHaveBeenCalledWith("4");
});

it("gives what the queue is filtered to, or lets one take it oneself", async () => {
  const { asked } = open();
  const form = within(await screen.findByRole("form", { name: "Give work" }));
  await userEvent.click(await form.findByRole("checkbox", { name: "Sunniva" }));
  await userEvent.clear(form.getByRole("spinbutton", { name: "Of 100, so many" }));
  await userEvent.type(form.getByRole("spinbutton", { name: "Of 100, so many" }), "50");
  await userEvent.click(form.getByRole("button", { name: "Give them" }));
  await waitFor(() => expect(sent(asked)[0]?.body).toMatchObject({ people: ["Sunniva"], source: "till", share: 50 }));
  await userEvent.click(form.getByRole("button", { name: "Take them myself" }));
  await waitFor(() => expect(sent(asked)[1]?.body).toMatchObject({ people: ["Maren"], share: 100, due_on: null }));
});

it("hands work over, and ends it", async () => {
  const { asked } = open();
  await userEvent.click(await screen.findByRole("button", { name: "Hand over" }));
  const whose = within(screen.getByRole("group", { name: "Whose it is" }));
  await userEvent.click(whose.getByRole("checkbox", { name: "Maren" }));
  expect(screen.getByRole("button", { name: "Set this" })).toHaveProperty("disabled", true);
  await userEvent.click(whose.getByRole("checkbox", { name: "Sunniva" }));
  await userEvent.click(screen.getByRole("button", { name: "Set this" }));
  await waitFor(() => expect(sent(asked)[0]?.body).toEqual({ people: ["Sunniva"], due_on: "2026-11-01" }));
  await userEvent.click(screen.getByRole("button", { name: "End" }));
  await waitFor(() => expect(sent(asked)[1]?.method).toBe("DELETE"));
});

it("keeps whose work is looked at in the address", () => {
  for (const work of ["mine", "pool", "12"]) {
    expect(readState(writeState({ ...USUAL, work })).work).toBe(work);
  }
  expect(readState(new URLSearchParams("work=somebody")).work).toBe("");
});

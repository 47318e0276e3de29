import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { register } from "../../tests/examples";
import { type Asked, serve, show } from "../../tests/render";
import { FindingsPage, PlansPage, ReportPage } from "./index";

const BASE = "/api/registers/customers/findings";
const plan = {
  name: "Staff",
  other: "employees",
  other_name: "Employees",
  yaml: "title: Staff\n",
  plan: { title: "Staff", most_holders: 5, shared: [{ title: "phone", using: "phone", one: "phone", other: "phone" }] },
  counts: { open: 2, "of interest": 0, explained: 1, "not a finding": 0 },
  common: { address: 12, phone: 0 },
  ran_at: "2026-11-01T10:00:00Z",
  actor: "ann",
};
const of = (record_id: number, name: string) => ({
  record_id,
  golden_key: record_id < 10 ? `SU-${record_id}` : "",
  source: "payroll",
  source_key: `E${record_id}`,
  values: { name, phone: "01632 960001" },
  gone: false,
});
const finding = (place: number, state: string, value: string, again = "") => ({
  place,
  one: of(place + 1, `Firm ${place}`),
  other: of(place + 11, `Person ${place}`),
  score: 8.1,
  things: [{ title: "phone", value, bits: 8.1, one_holders: 1, other_holders: 1, one: 1, other: 2 }],
  state,
  said_by: state === "open" ? "" : "bob",
  remark: state === "explained" ? "a cousin" : "",
  again,
});
const findings = [
  finding(0, "open", "+441632960001"),
  finding(1, "open", "+441632960001", "explained before (bob: a cousin); now also shares address"),
  finding(2, "explained", "+441632960009"),
];

function open(element: React.ReactNode, address = "", more: Record<string, unknown> = {}): Asked[] {
  const layout = {
    fields: [
      { name: "name", label: "Name" },
      { name: "phone", label: "Phone" },
    ],
    version: 1,
  };
  const asked = serve({
    "GET /api/registers": [register, { ...register, slug: "employees", name: "Employees" }],
    "GET /api/registers/customers/layout": layout,
    "GET /api/registers/employees/layout": { ...layout, fields: [{ name: "name", label: "Full name" }] },
    [`GET ${BASE}`]: [plan],
    [`GET ${BASE}/Staff`]: plan,
    [`GET ${BASE}/Staff/rows`]: { rows: findings, before: "", behind: "" },
    ...more,
  });
  show(element, { path: `/r/customers/findings${address}`, pattern: "/r/:slug/findings/:plan?/:rest?" });
  return asked;
}

const said = (asked: Asked[]) => asked.filter(({ method }) => method === "POST").map(({ path, body }) => [path, body]);

describe("findings", () => {
  it("stand under what is shared, with how rare it is and who else holds it", async () => {
    open(<FindingsPage />, "/Staff");
    expect(await screen.findAllByText("+441632960001")).toHaveLength(2);
    expect(screen.getByText(/1 of Customers and 1 of Employees and nobody else hold it, 8.1 bits/)).toBeTruthy();
    expect(screen.getByText(/held by more than 5: 12 pairs by address/)).toBeTruthy();
    expect(await screen.findByRole("rowheader", { name: "Name" })).toBeTruthy();
  });

  it("are decided by keys alone; what explains one is asked for", async () => {
    const asked = open(<FindingsPage />, "/Staff", {
      [`POST ${BASE}/Staff/rows/1`]: findings[0],
      [`POST ${BASE}/Staff/rows/2`]: findings[1],
      [`POST ${BASE}/Staff/rows/3`]: findings[2],
    });
    await screen.findByText(/nobody else hold it/);
    await userEvent.keyboard("i");
    await waitFor(() => expect(said(asked)[0]).toEqual([`${BASE}/Staff/rows/1`, { state: "of interest", remark: "" }]));
    expect(await screen.findByText(/now also shares address/)).toBeTruthy();
    await userEvent.keyboard("e");
    await userEvent.type(await screen.findByLabelText(/What explains it/), "a cousin, really{Enter}");
    await waitFor(() => expect(said(asked)[1]?.[1]).toEqual({ state: "explained", remark: "a cousin, really" }));
    expect(await screen.findByText(/: a cousin$/)).toBeTruthy();
    await userEvent.keyboard("u");
    await waitFor(() => expect(said(asked)[2]?.[1]).toEqual({ state: "open", remark: "" }));
    await userEvent.keyboard("{ArrowUp}n");
    await waitFor(() => expect(said(asked)[3]?.[1]).toEqual({ state: "not a finding", remark: "" }));
  });

  it("come of a plan that is changed as text, with every problem told", async () => {
    const asked = open(<FindingsPage />, "/Staff", { [`PUT ${BASE}/Staff`]: 422 });
    await userEvent.click(await screen.findByRole("button", { name: "What is looked for…" }));
    await userEvent.type(await screen.findByLabelText("Plan as YAML"), "x: 1");
    await userEvent.click(screen.getByRole("button", { name: "Change the plan" }));
    expect((await screen.findByRole("alert")).textContent).toContain("problem 422");
    expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({ yaml: "title: Staff\nx: 1" });
  });

  it("begin with the register that this one is held against", async () => {
    const asked = open(<PlansPage />, "", { [`POST ${BASE}`]: plan });
    expect((await screen.findByRole("link", { name: "1" })).getAttribute("href")).toContain("state=explained");
    await userEvent.click(screen.getByRole("button", { name: "Hold against another register…" }));
    await userEvent.click(await screen.findByRole("button", { name: /The other register/ }));
    await userEvent.click(await screen.findByRole("option", { name: "Employees" }));
    await userEvent.click(screen.getByRole("button", { name: "Make the plan" }));
    await waitFor(() =>
      expect(said(asked)[0]?.[1]).toEqual({ name: "Against Employees", other: "employees", yaml: "" }),
    );
  });

  it("make a page for paper", async () => {
    open(<ReportPage />, "/Staff/report");
    expect(await screen.findByText("a cousin")).toBeTruthy();
    expect(screen.getAllByText("1 + 1")).toHaveLength(3);
  });
});

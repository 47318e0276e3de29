import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { job } from "../../../tests/examples";
import { serve, show } from "../../../tests/render";
import { ProfilePage } from "./ProfilePage";

const BASE = "/api/registers/customers";

describe("the profile", () => {
  const one = (value: string, records: number) => ({ value, records });
  const field = {
    name: "phone",
    label: "Phone",
    kind: "phone",
    checked: true,
    further: [3, 0],
    records: 200,
    filled: 199,
    empty: 1,
    distinct: 150,
    single: 120,
    frequent: [one("0000", 9)],
    shapes: [one("99999 999999", 180)],
    rare_shapes: [],
    shortest: 4,
    usual_length: 12,
    longest: 14,
    odd: [one("misread", 2)],
    gap_fillers: [one("0000", 9)],
    invalid: 11,
    invalid_examples: [one("n/a", 11)],
  };
  const profile = { records: 200, fields: [field], odd_letters: { misread: "letters misread" } };
  const open = (path: string, more: Record<string, unknown> = {}) => {
    const asked = serve({
      [`GET ${BASE}/profile`]: { profile },
      [`GET ${BASE}/sources`]: [{ name: "till", trust_rank: 1, own_duplicates: true }],
      [`GET ${BASE}/deliveries`]: [],
      ...more,
    });
    show(<ProfilePage />, { path: `/r/customers/tidy/profile${path}`, pattern: "/r/:slug/tidy/profile" });
    return asked;
  };

  it("shows figures whose numbers lead to the records behind them", async () => {
    open("?of=source till");
    const invalid = await screen.findByRole("link", { name: "11 records no valid phone" });
    expect(invalid.getAttribute("href")).toBe("/r/customers/tidy?field=phone&check=invalid&source=till");
    expect(screen.getByRole("link", { name: "2 records: misread" }).getAttribute("href")).toContain(
      "check=odd+letters&wanted=misread",
    );
    expect(screen.getByText(">99 %", { selector: "td span" })).toBeTruthy();
  });

  it("puts two sources side by side", async () => {
    const asked = open("?beside=source till");
    expect((await screen.findAllByRole("heading", { name: "Phone" })).length).toBe(1);
    await waitFor(() => expect(screen.getAllByRole("link", { name: "11 records no valid phone" })).toHaveLength(2));
    expect(asked.some(({ path }) => path.endsWith("/profile?source=till"))).toBe(true);
  });

  it("of very many records is made in the background", async () => {
    const asked = open("", { [`GET ${BASE}/profile`]: { profile: null }, [`POST ${BASE}/profile`]: job() });
    await userEvent.click(await screen.findByRole("button", { name: "Look at all values" }));
    await waitFor(() => expect(asked.some(({ method }) => method === "POST")).toBe(true));
  });
});

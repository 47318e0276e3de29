import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { serve, show } from "../../tests/render";
import { ToldPage } from "./index";

const BASE = "/api/registers/customers/receivers";
const receiver = {
  id: 4,
  address: "https://crm.example/",
  kinds: [],
  on: true,
  position: 9,
  waiting: 12,
  failures: 2,
  why: "answered 503 Service Unavailable",
  failing_since: "2026-11-27T10:00:00Z",
  told_at: null,
  next_at: "2026-11-27T10:20:00Z",
  version: 3,
  actor: "ann",
};

function open(receivers: unknown[]) {
  const asked = serve({
    [`GET ${BASE}`]: receivers,
    [`POST ${BASE}`]: { receiver, secret: "whsec_abc" },
    [`PUT ${BASE}/4`]: receiver,
    [`POST ${BASE}/4/again`]: receiver,
  });
  show(<ToldPage />, { path: "/r/customers/send-out/told", pattern: "/r/:slug/send-out/told" });
  return { asked, user: userEvent.setup() };
}

describe("others are told", () => {
  it("shows what a receiver did not take, pauses it, and tells it again", async () => {
    const { asked, user } = open([receiver]);
    const row = within(await screen.findByRole("row", { name: /crm\.example/ }));
    expect(row.getByText(/tried 2 times, 12 wait: answered 503 Service Unavailable/)).toBeTruthy();
    await user.click(row.getByRole("button", { name: "Pause" }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({ kinds: [], on: false, seen_version: 3 }),
    );
    await user.click(row.getByRole("button", { name: "Tell again…" }));
    await user.type(screen.getByLabelText("Everything that happened since"), "2026-11-26T08:00");
    await user.click(screen.getByRole("button", { name: "Tell it again" }));
    await waitFor(() => expect(asked.some(({ path }) => path.endsWith("/4/again"))).toBe(true));
  });

  it("shows the secret of a new one once", async () => {
    const { asked, user } = open([]);
    expect(await screen.findByText("Nobody is told yet.")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Tell an address…" }));
    await user.type(screen.getByLabelText("Address"), "https://crm.example/");
    await user.click(screen.getByLabelText("doubts wait for a person"));
    await user.click(screen.getByRole("button", { name: "Tell it from now on" }));
    expect(await screen.findByText("whsec_abc")).toBeTruthy();
    expect(asked.find(({ method }) => method === "POST")?.body).toMatchObject({ address: "https://crm.example/" });
    await user.click(screen.getByRole("button", { name: "It is noted" }));
    expect(screen.queryByText("whsec_abc")).toBeNull();
  });
});

import { useQueryClient } from "@tanstack/react-query";
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { keys } from "../../api/keys";
import { Gate } from "../../app/Gate";
import { browserInWords, rolesInWords } from "../../domain/people";
import { register } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { Button, Toasts, useKeys } from "../../ui";
import { AccountPage, PeoplePage, RightsPage, WelcomePage } from ".";

const NOBODY = {
  signs_in: true,
  name: "",
  everywhere: [],
  registers: [],
  acts: [],
  roles: [],
  demo_people: [],
  provider: "",
  accounts: true,
  wrong_before: 0,
};
const ACTS = [
  { act: "decide", says: "decide doubts", roles: ["steward"], who_may: "a steward" },
  { act: "see", says: "see records", roles: ["auditor", "steward"], who_may: "a steward or an auditor" },
];
const ROLES = [
  { role: "steward", says: "answers for the records" },
  { role: "auditor", says: "reads all" },
];
const someone = (name: string, acts: string[], roles = ["steward"]) => ({
  ...NOBODY,
  name,
  acts: ACTS,
  roles: ROLES,
  registers: [{ slug: "customers", roles, acts }],
});

function Work() {
  const queries = useQueryClient();
  useKeys([{ key: "s", label: "Same", needs: "decide", run: () => undefined }]);
  return (
    <>
      <input aria-label="draft" />
      <Button needs="decide">Same</Button>
      <Button onClick={() => void queries.invalidateQueries({ queryKey: keys.who })}>Ask who is in</Button>
      <Toasts />
    </>
  );
}

function house(who: unknown, answers: Record<string, unknown> = {}) {
  const asked = serve({ "GET /api/sign-in": who, ...answers });
  const gate = (
    <Gate>
      <Work />
    </Gate>
  );
  return { asked, ...show(gate, { path: "/r/customers/review", pattern: "/r/:slug/*" }) };
}

describe("the gate", () => {
  it("lets one in by a password, and tells of wrong ones", async () => {
    const { asked } = house(NOBODY, { "POST /api/sign-in": { ...someone("Ada", ["decide"]), wrong_before: 3 } });
    expect(screen.queryByLabelText("draft")).toBeNull();
    await userEvent.type(await screen.findByLabelText("Name to sign in with"), "ada");
    await userEvent.type(screen.getByLabelText("Password"), "heron under seven{Enter}");
    expect(await screen.findByLabelText("draft")).toBeTruthy();
    expect(await screen.findByText(/3 wrong passwords for your name of late/)).toBeTruthy();
    expect(asked.find(({ method }) => method === "POST")?.body).toEqual({
      sign_in: "ada",
      password: "heron under seven",
    });
  });

  it("says of a wrong password what the server says, and offers the provider and the demo's people", async () => {
    house(
      { ...NOBODY, provider: "Kittiwake", demo_people: [{ name: "Maren", says: "steward" }] },
      {
        "POST /api/sign-in": { status: 429, detail: "Too many wrong tries. The next one counts in 64 s." },
        "POST /api/sign-in/demo": someone("Maren", ["decide"]),
      },
    );
    expect((await screen.findByRole("link", { name: /Sign in by Kittiwake/ })).getAttribute("href")).toBe(
      "/api/sign-in/provider",
    );
    await userEvent.type(screen.getByLabelText("Name to sign in with"), "ada");
    await userEvent.type(screen.getByLabelText("Password"), "x{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("counts in 64 s");
    await userEvent.click(screen.getByRole("button", { name: /Maren/ }));
    expect(await screen.findByLabelText("draft")).toBeTruthy();
  });

  it("keeps what was typed when the sign-in ends, and goes on with it", async () => {
    let who: unknown = someone("Ada", ["decide"]);
    house(() => who, { "POST /api/sign-in": () => someone("Ada", ["decide"]) });
    await userEvent.type(await screen.findByLabelText("draft"), "half a thought");
    who = NOBODY;
    await userEvent.click(screen.getByRole("button", { name: "Ask who is in" }));
    expect(await screen.findByRole("heading", { name: "You are signed out" })).toBeTruthy();
    await userEvent.type(screen.getByLabelText("Name to sign in with"), "ada");
    await userEvent.type(screen.getByLabelText("Password"), "heron under seven{Enter}");
    await waitFor(() => expect(screen.queryByRole("heading", { name: "You are signed out" })).toBeNull());
    expect(screen.getByLabelText<HTMLInputElement>("draft").value).toBe("half a thought");
  });

  it("offers what one may do, and says who may do the rest, by button and by key", async () => {
    house(someone("Una", ["see"], ["auditor"]));
    const button = await screen.findByRole("button", { name: "Same" });
    expect(button.getAttribute("aria-disabled")).toBe("true");
    await userEvent.click(button);
    expect(await screen.findAllByText("Only a steward may decide doubts.")).toHaveLength(1);
    await userEvent.keyboard("s");
    await waitFor(() => expect(screen.getAllByText("Only a steward may decide doubts.")).toHaveLength(2));
  });
});

describe("a one-time link", () => {
  it("makes the first account from what stands behind the #", async () => {
    window.location.hash = "#the-secret";
    const asked = serve({
      "POST /api/welcome": { name: "", sign_in: "", first: true },
      "POST /api/welcome/password": someone("Ada Quay", ["decide"]),
    });
    const { router } = show(<WelcomePage />, { path: "/welcome", pattern: "/welcome" });
    await userEvent.type(await screen.findByLabelText("Your name"), "Ada Quay");
    await userEvent.type(screen.getByLabelText("Name to sign in with"), "ada");
    await userEvent.type(screen.getByLabelText("Password"), "heron under seven");
    const make = screen.getByRole<HTMLButtonElement>("button", { name: "Make the account" });
    await userEvent.type(screen.getByLabelText("The same password again"), "heron under");
    expect(make.disabled).toBe(true);
    await userEvent.type(screen.getByLabelText("The same password again"), " seven{Enter}");
    await waitFor(() => expect(router.state.location.pathname).toBe("/"));
    expect(asked.at(-1)?.body).toEqual({
      secret: "the-secret",
      name: "Ada Quay",
      sign_in: "ada",
      password: "heron under seven",
    });
    expect(asked.every(({ path }) => !path.includes("the-secret"))).toBe(true);
    window.location.hash = "";
  });
});

describe("people", () => {
  const person = {
    id: 7,
    name: "Bo Ness",
    sign_in: "bo",
    email: "",
    roles: [{ slug: "customers", role: "steward" }],
    has_password: true,
    by_provider: false,
    demo: false,
    added_at: "2026-11-01T10:00:00Z",
    ended_at: null,
  };
  const served = (more: Record<string, unknown>) =>
    serve({
      "GET /api/sign-in": someone("Ada", ["decide"]),
      "GET /api/people": [person],
      "GET /api/registers": [register],
      ...more,
    });

  it("are added with roles by register, and their link is shown once", async () => {
    const asked = served({ "POST /api/people": { person: 8, link: "http://127.0.0.1:8470/welcome#xyz" } });
    show(<PeoplePage />);
    await userEvent.click(await screen.findByRole("button", { name: "Add a person…" }));
    const dialog = within(await screen.findByRole("dialog"));
    await userEvent.type(dialog.getByLabelText("Name"), "Jory Penfold");
    await userEvent.type(dialog.getByLabelText("Name to sign in with"), "jory");
    await userEvent.click(await dialog.findByRole("checkbox", { name: "auditor: Customers" }));
    await userEvent.click(dialog.getByRole("button", { name: /Add, and get a link/ }));
    expect(await screen.findByText("http://127.0.0.1:8470/welcome#xyz")).toBeTruthy();
    const made = asked.find(({ method }) => method === "POST")?.body;
    expect(made).toEqual({
      name: "Jory Penfold",
      sign_in: "jory",
      email: "",
      roles: [{ slug: "customers", role: "auditor" }],
    });
  });

  it("get other roles, are signed out, and their accounts end", async () => {
    const asked = served({
      "PUT /api/people/7": {},
      "DELETE /api/people/7": {},
      "DELETE /api/people/7/browsers": {},
    });
    show(<PeoplePage />);
    expect(await screen.findByText("steward in customers")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Roles…" }));
    await userEvent.click(await screen.findByRole("checkbox", { name: "steward: Customers" }));
    await userEvent.click(await screen.findByRole("checkbox", { name: /auditor: Every register/ }));
    await userEvent.click(screen.getByRole("button", { name: "Give these roles" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(asked.find(({ method }) => method === "PUT")?.body).toEqual({
      email: "",
      roles: [{ slug: null, role: "auditor" }],
    });
    await userEvent.click(screen.getByRole("button", { name: "Sign out" }));
    await userEvent.click(screen.getByRole("button", { name: "End…" }));
    await userEvent.click(await screen.findByRole("button", { name: "End the account" }));
    await waitFor(() => expect(asked.filter(({ method }) => method === "DELETE")).toHaveLength(2));
  });
});

describe("one's account", () => {
  it("lists where one is signed in and the tokens, and makes one", async () => {
    const browser = { id: 1, address: "192.0.2.1", browser: "Mozilla/5.0 (X11; Linux) Firefox/140", this_one: true };
    const moments = { at: "2026-11-01T10:00:00Z", seen_at: "2026-11-01T11:00:00Z" };
    const asked = serve({
      "GET /api/sign-in": someone("Ada", ["decide"]),
      "GET /api/account/browsers": [
        { ...browser, ...moments },
        { ...browser, ...moments, id: 2, this_one: false },
      ],
      "GET /api/account/tokens": [],
      "DELETE /api/account/browsers/2": {},
      "POST /api/account/tokens": { token: { label: "nightly" }, secret: "oddp_secret" },
    });
    show(<AccountPage />);
    expect(await screen.findAllByText("Firefox on Linux")).toHaveLength(2);
    await userEvent.click(screen.getByRole("button", { name: "Sign out there" }));
    await userEvent.click(screen.getByRole("button", { name: "Make a token…" }));
    await userEvent.type(await screen.findByLabelText("Name"), "nightly");
    await userEvent.click(screen.getByRole("checkbox", { name: "steward" }));
    await userEvent.click(screen.getByRole("button", { name: "Make it" }));
    expect(await screen.findByText("oddp_secret")).toBeTruthy();
    expect(asked.find(({ method }) => method === "POST")?.body).toHaveProperty("registers", null);
    expect(asked.some(({ path }) => path === "/api/account/browsers/2")).toBe(true);
  });

  it("says who may do what", async () => {
    serve({ "GET /api/sign-in": someone("Ada", ["decide"]) });
    show(<RightsPage />);
    const row = (await screen.findByRole("rowheader", { name: "see records" })).closest("tr") as HTMLElement;
    expect(within(row).getAllByText("yes")).toHaveLength(2);
  });

  it("tells roles and browsers in words", () => {
    expect(
      rolesInWords([
        { slug: "a", role: "clerk" },
        { slug: "b", role: "clerk" },
        { slug: null, role: "auditor" },
      ]),
    ).toEqual(["clerk in a, b", "auditor in every register"]);
    expect(browserInWords("Mozilla/5.0 (Windows NT 10.0) Chrome/156 Safari/537")).toBe("Chrome or Chromium on Windows");
    expect(browserInWords("curl/8.1")).toBe("curl/8.1");
  });
});

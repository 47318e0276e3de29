import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import axe from "axe-core";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { ProblemError, unwrap } from "../api/client";
import { show } from "../tests/render";
import { Choice, Empty, Faces, Modal, Search, TextField, Trouble, useKeys, useShownKeys } from "./index";

const COLOURS = [
  { value: "plum", label: "Plum" },
  { value: "rust", label: "Rust" },
  { value: "marine", label: "Marine" },
];

function Chooser() {
  const [value, setValue] = useState("plum");
  return <Choice label="Colour" value={value} options={COLOURS} onChange={setValue} />;
}

describe("choosing", () => {
  it("works by keyboard alone and says its label and value", async () => {
    show(<Chooser />);
    screen.getByRole("button", { name: "Colour: Plum" }).focus();
    await userEvent.keyboard(" ");
    await screen.findByRole("listbox");
    await userEvent.keyboard("{ArrowDown}{Enter}");
    await waitFor(() => expect(screen.getByRole("button", { name: "Colour: Rust" })).toBeTruthy());
  });
});

function Keyed({ onRun }: { onRun: (key: string) => void }) {
  const [open, setOpen] = useState(false);
  useKeys([
    { key: "s", label: "Same", run: () => onRun("s") },
    { key: "ArrowDown", label: "Next", run: () => onRun("down") },
    { key: "o", label: "Open", run: () => setOpen(true) },
  ]);
  const shown = useShownKeys();
  return (
    <>
      <p>{shown.map(({ label }) => label).join(", ")}</p>
      <Search label="Search" value="" onChange={() => {}} />
      <input type="checkbox" aria-label="box" />
      {open && (
        <Modal title="Open" onClose={() => setOpen(false)}>
          <button type="button">inside</button>
        </Modal>
      )}
    </>
  );
}

describe("keys of a screen", () => {
  it("run in either case, list themselves, and leave with the screen", async () => {
    const run = vi.fn();
    const { unmount } = show(<Keyed onRun={run} />);
    expect(screen.getByText("Same, Next, Open")).toBeTruthy();
    await userEvent.keyboard("sS{ArrowDown}");
    expect(run.mock.calls.flat()).toEqual(["s", "s", "down"]);
    unmount();
    await userEvent.keyboard("s");
    expect(run).toHaveBeenCalledTimes(3);
  });

  it("rest while a person types, but not on a check box", async () => {
    const run = vi.fn();
    show(<Keyed onRun={run} />);
    await userEvent.type(screen.getByRole("searchbox"), "ss");
    expect(run).not.toHaveBeenCalled();
    screen.getByRole("checkbox").focus();
    await userEvent.keyboard("s");
    expect(run).toHaveBeenCalledTimes(1);
  });

  it("rest while a dialog is open and with a modifier held", async () => {
    const run = vi.fn();
    show(<Keyed onRun={run} />);
    await userEvent.keyboard("{Control>}s{/Control}");
    await userEvent.keyboard("o");
    await screen.findByRole("dialog");
    await userEvent.keyboard("s");
    expect(run).not.toHaveBeenCalled();
    await userEvent.keyboard("{Escape}");
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    await userEvent.keyboard("s");
    expect(run).toHaveBeenCalledTimes(1);
  });
});

describe("the faces of a screen", () => {
  const query = { data: undefined as string | undefined, error: null as Error | null, refetch: vi.fn() };

  it("shows loading, then data", () => {
    show(<Faces query={query}>{(data) => <p>{data}</p>}</Faces>);
    expect(screen.getByRole("status", { name: "Loading" })).toBeTruthy();
    show(<Faces query={{ ...query, data: "here" }}>{(data) => <p>{data}</p>}</Faces>);
    expect(screen.getByText("here")).toBeTruthy();
  });

  it("shows an error with a way to try again", async () => {
    show(<Faces query={{ ...query, error: new Error("It broke.") }}>{() => null}</Faces>);
    expect(screen.getByRole("alert").textContent).toContain("It broke.");
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(query.refetch).toHaveBeenCalled();
  });

  it("keeps showing data it has when asking again fails", () => {
    show(<Faces query={{ ...query, data: "old", error: new Error("gone") }}>{(data) => <p>{data}</p>}</Faces>);
    expect(screen.getByText("old")).toBeTruthy();
  });

  it("lists every problem where there are several", () => {
    show(<Trouble error={new ProblemError("Two things.", 422, ["the first", "the second"])} />);
    expect(screen.getAllByRole("listitem").map((item) => item.textContent)).toEqual(["the first", "the second"]);
  });
});

describe("answers of the server", () => {
  const answer = (status: number, error?: unknown) =>
    Promise.resolve({ error, response: new Response(null, { status }) });

  it("throws problem details as they are, and says so when there are none", async () => {
    await expect(unwrap(answer(409, { detail: "Changed.", problems: [] }))).rejects.toMatchObject({
      message: "Changed.",
      status: 409,
    });
    await expect(unwrap(answer(502, "<html>"))).rejects.toThrow("The server answered with status 502.");
    await expect(unwrap(Promise.reject(new TypeError("network")))).rejects.toThrow("Odd Pair does not answer.");
  });
});

it("has no axe findings in its primitives", async () => {
  const { container } = show(
    <main>
      <h1>Primitives</h1>
      <Chooser />
      <Search label="Search" value="" onChange={() => {}} />
      <TextField label="Name" hint="as on the sign" defaultValue="" />
      <Empty title="Nothing here.">
        <p>Do this next.</p>
      </Empty>
      <Trouble error={new Error("It broke.")} />
    </main>,
  );
  // jsdom lays nothing out, so contrast is checked in the real browser.
  const found = await axe.run(container, { rules: { "color-contrast": { enabled: false } } });
  expect(found.violations.map(({ id }) => id)).toEqual([]);
});

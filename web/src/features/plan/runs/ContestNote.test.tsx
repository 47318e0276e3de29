import { render, screen } from "@testing-library/react";
import { expect, test } from "vitest";
import { ContestNote } from "./ContestNote";

function contestOf(pairs: number) {
  const partners = Array.from({ length: pairs }, (_, place) => ({
    one: "ledger",
    other: `shop ${place}`,
    expected: place * 10,
  }));
  return { without_duplicates: ["ledger"], partners, learned_from: 40 };
}

test("the sources that share most are told first, and how many more there are", () => {
  render(<ContestNote contest={contestOf(11)} />);
  const items = screen.getAllByRole("listitem").map((item) => item.textContent);
  expect(items).toHaveLength(9);
  expect(items[0]).toBe("ledger and shop 10: about 100 partners");
  expect(items[8]).toBe("fewer between 3 more pairs of sources");
});

test("where all are told, nothing is said of more", () => {
  render(<ContestNote contest={contestOf(8)} />);
  expect(screen.queryByText(/more pairs of sources/)).toBeNull();
  expect(screen.getAllByRole("listitem")).toHaveLength(8);
});

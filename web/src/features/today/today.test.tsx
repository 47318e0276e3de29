import { screen, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { register } from "../../tests/examples";
import { serve, show } from "../../tests/render";
import { TodayPage } from "./index";

const base = { slug: "customers", register_name: "Customers" };

it("says what waits, what came back and why, what others ask and what looks wrong, each leading to the work", async () => {
  serve({
    "GET /api/registers": [register],
    "GET /api/jobs": { jobs: [] },
    "GET /api/today": {
      waiting: [
        { ...base, kinds: [{ kind: "name=equal|", says: "same name, nothing against it", waiting: 7 }], more_kinds: 2 },
      ],
      came_back: [{ ...base, kind: "changed", count: 3 }],
      asked: [
        {
          ...base,
          what: "pair",
          left_id: 4,
          right_id: 9,
          asked_by: "bob",
          remark: "one firm?",
          until: "2030-01-31",
          at: "",
        },
        { ...base, what: "cluster", left_id: 5, right_id: 6, asked_by: "bob", remark: "", until: null, at: "" },
      ],
      held: [
        {
          id: 3,
          register_slug: "customers",
          register_name: "Customers",
          source: "till",
          why: "till.csv has 40 rows, usually about 500",
        },
      ],
      work: [{ ...base, piece: { id: 4, waiting: 1, says: "all pairs", due_on: "2030-01-31", late: false } }],
      to_sign: [{ ...base, count: 3 }],
      sent_back: [{ ...base, id: 5, summary: "Decided same", sent_by: "Una", reason: "look again" }],
      wrong: [{ ...base, says: "till sent 40 rows, usually about 500", leads_to: "bring-in/7" }],
    },
  });
  show(<TodayPage />);
  const leads = async (region: string) =>
    within(await screen.findByRole("region", { name: region }))
      .getAllByRole("link")
      .map((link) => link.getAttribute("href"));
  expect(await leads("Asked of you")).toEqual(["/r/customers/review/4/9", "/r/customers/review/records?of=5"]);
  expect(await leads("Came back")).toEqual(["/r/customers/review?kind=changed"]);
  expect(await leads("Held")).toEqual(["/r/customers/bring-in/unattended"]);
  expect(await leads("Your work")).toEqual(["/r/customers/review?work=4"]);
  expect(await leads("To sign off")).toEqual(["/r/customers/sign-off"]);
  expect(await leads("Sent back to you")).toEqual(["/r/customers/sign-off?state=sent+back&id=5"]);
  expect(await leads("Looks wrong")).toEqual(["/r/customers/bring-in/7"]);
  expect(await leads("Doubts by kind")).toEqual(["/r/customers/review?kind=name%3Dequal%7C"]);
  expect(screen.getByText("and 2 further kinds")).toBeTruthy();
  expect(screen.getByText(/one firm/).textContent).toContain("until 2030-01-31");
});
